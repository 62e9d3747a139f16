import { actorByMail } from "#scenario/set-up/fill-set-up.ts";
import { makeSetUpDatabase, must } from "../db/test-world.ts";
import { loadPreferences, savePreferences } from "./load-settings.ts";

let world: Awaited<ReturnType<typeof makeSetUpDatabase>>;
beforeAll(async () => {
  world = await makeSetUpDatabase();
});
afterAll(() => world.end());

test("preferences that are changed at the same moment are all saved, and those left out stay", async () => {
  const clerk = await actorByMail("tam.corrigall@merrowick.example");
  expect(await loadPreferences(clerk.id)).toMatchObject({ asksBeforeMove: true, arrivalSort: "newest", paperColumns: [] });
  for (let round = 0; round < 5; round++) {
    const sort = round % 2 === 0 ? "name" : "oldest";
    await Promise.all([
      savePreferences(clerk, { arrivalSort: sort }),
      savePreferences(clerk, { paperColumns: ["title", `c${round}`] }),
      savePreferences(clerk, { asksBeforeMove: false }),
    ]);
    expect(await loadPreferences(clerk.id)).toMatchObject({
      asksBeforeMove: false,
      arrivalSort: sort,
      paperColumns: ["title", `c${round}`],
    });
  }
  expect(must(await savePreferences(clerk, { asksBeforeMove: true }))).toMatchObject({ asksBeforeMove: true, arrivalSort: "name" });
});
