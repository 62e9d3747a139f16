import { actorByMail } from "#scenario/set-up/fill-set-up.ts";
import { parseDocumentCode } from "#core/shared/brand.ts";
import { fileText, makeSetUpDatabase, must, putRecord, takeText } from "../db/test-world.ts";
import { unfile } from "../documents/unfile.ts";
import type { Actor } from "../people/load-actor.ts";
import { setAside } from "./change-state.ts";
import { listArrivals, loadArrival } from "./list-arrivals.ts";

let world: Awaited<ReturnType<typeof makeSetUpDatabase>>;
let admin: Actor;
let clerk: Actor;
beforeAll(async () => {
  world = await makeSetUpDatabase();
  admin = await actorByMail("isla.rowe@merrowick.example");
  clerk = await actorByMail("tam.corrigall@merrowick.example");
  await putRecord(admin, "MF", "vessel", "V-1", { title: "MV 1", fields: { name: "MV 1" } });
  await putRecord(admin, "MF", "crewMember", "E-1", { title: "Rona Firth", fields: { name: "Rona Firth" } });
});
afterAll(() => world.end());

const code = (text: string) => {
  const parsed = parseDocumentCode(text);
  if (!parsed) throw new Error("no code");
  return parsed;
};

describe("The very same file", () => {
  test("is told of when it is filed already, whatever it is called, until that filing is undone", async () => {
    const filed = await fileText(admin, "class.txt", "class certificate", {
      documentType: "certificate",
      title: "Class",
      clips: [{ company: "MF", type: "vessel", key: "V-1" }],
    });
    const again = await takeText(admin, "another name.txt", "class certificate");
    expect((await loadArrival(clerk, again))?.duplicates).toEqual([{ code: filed.code, title: "Class", kind: "same", similarity: 1 }]);
    expect((await loadArrival(clerk, await takeText(admin, "class.txt", "another certificate")))?.duplicates).toEqual([]);
    must(await unfile(admin, code(filed.code)));
    expect((await loadArrival(clerk, again))?.duplicates).toEqual([]);
  });

  test("is told of when it waits twice, the later of the earlier, until one of them is set aside", async () => {
    const first = await takeText(admin, "one.txt", "twice");
    const second = await takeText(admin, "two.txt", "twice");
    expect((await loadArrival(admin, second))?.twin).toMatchObject({ id: first, fileName: "one.txt" });
    expect((await loadArrival(admin, first))?.twin).toBeNull();
    const { items } = await listArrivals(admin, { limit: 50, offset: 0 });
    expect(items.find((a) => a.id === second)?.twin?.id).toBe(first);
    must(await setAside(admin, first, "not needed"));
    expect((await loadArrival(admin, second))?.twin).toBeNull();
  });

  test("is not told of to those who may not see what has it (promise 6)", async () => {
    await fileText(admin, "medical.txt", "fit for sea", {
      documentType: "medicalCertificate",
      title: "Medical Rona Firth",
      clips: [{ company: "MF", type: "crewMember", key: "E-1" }],
    });
    const mine = await takeText(clerk, "found on the quay.txt", "fit for sea");
    expect((await loadArrival(admin, mine))?.duplicates).toHaveLength(1);
    expect((await loadArrival(clerk, mine))?.duplicates).toEqual([]);
    await takeText(admin, "crew.txt", "for the crew office", { queue: "crew-office" });
    const theirs = await takeText(clerk, "elsewhere.txt", "for the crew office");
    expect((await loadArrival(admin, theirs))?.twin).not.toBeNull();
    expect((await loadArrival(clerk, theirs))?.twin).toBeNull();
  });
});
