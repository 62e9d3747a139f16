import { chmod, readdir, readFile, writeFile } from "node:fs/promises";
import path from "node:path";
import { eq } from "drizzle-orm";
import { actorByMail } from "#scenario/set-up/fill-set-up.ts";
import { db } from "../db/connect.ts";
import { makeSetUpDatabase, must, putRecord, takeText } from "../db/test-world.ts";
import { fileAway } from "../documents/file-away.ts";
import { localFile } from "../documents/local-file.ts";
import { documentVersion } from "../documents/tables.ts";
import type { Actor } from "../people/load-actor.ts";
import { parseSha256 } from "#core/shared/brand.ts";
import { placeDocument } from "./place-document.ts";
import { placement } from "./tables.ts";

let world: Awaited<ReturnType<typeof makeSetUpDatabase>>;
let admin: Actor;
beforeAll(async () => {
  world = await makeSetUpDatabase();
  admin = await actorByMail("isla.rowe@merrowick.example");
});
afterAll(async () => {
  await world.end();
});

test("a damaged copy of ours leaves nothing in the repository however often it is tried, and is placed once it is mended", async () => {
  await putRecord(admin, "MF", "purchaseOrder", "PO-1", { title: "Rope" });
  const arrival = await takeText(admin, "letter.txt", "what stands in it");
  const clips = [{ type: "purchaseOrder", key: "PO-1", company: "MF" }];
  const filed = must(await fileAway(admin, arrival, { documentType: "letter", clips, title: "Letter" }));
  const id = Number(filed.code.slice(3));
  const version = (await db().select().from(documentVersion).where(eq(documentVersion.documentId, id)))[0];
  const held = await localFile(parseSha256(version?.sha256 ?? ""));
  const whole = await readFile(held);
  await chmod(held, 0o640);
  await writeFile(held, "what stonds in it");
  const folder = path.join(world.dataFolder, "repository", path.dirname(filed.path));
  for (let attempt = 0; attempt < 3; attempt++) {
    await expect(placeDocument(id)).rejects.toMatchObject({ code: "bytes-damaged" });
    expect(await readdir(folder)).toEqual([]);
  }
  await writeFile(held, whole);
  await placeDocument(id);
  expect(await readdir(folder)).toEqual(["Letter.txt"]);
  expect((await db().select().from(placement).where(eq(placement.documentId, id)))[0]).toMatchObject({ state: "stored", why: null });
});
