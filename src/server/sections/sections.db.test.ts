import { sql } from "drizzle-orm";
import { actorByMail } from "#scenario/set-up/fill-set-up.ts";
import { parseDocumentCode } from "#core/shared/brand.ts";
import { type SectionInput, sectionTreeSchema } from "#core/sections/section-tree.ts";
import { db } from "../db/connect.ts";
import { fileText, makeSetUpDatabase, must, putRecord } from "../db/test-world.ts";
import { changeDocument } from "../documents/change-document.ts";
import { folderRule } from "../filing-plan/tables.ts";
import type { Actor } from "../people/load-actor.ts";
import { findVisibleRecord } from "../records/find-visible-record.ts";
import { listRecordDocuments, loadRecordPage } from "../records/load-record-page.ts";
import { changeSections, type SectionAct } from "./change-sections.ts";
import { loadTemplate } from "./load-tree.ts";
import { listTemplates, saveTemplate } from "./manage-templates.ts";

let world: Awaited<ReturnType<typeof makeSetUpDatabase>>;
let admin: Actor;
let clerk: Actor;
let light: Actor;
beforeAll(async () => {
  world = await makeSetUpDatabase();
  admin = await actorByMail("isla.rowe@merrowick.example");
  clerk = await actorByMail("tam.corrigall@merrowick.example");
  light = await actorByMail("pell.ashby@merrowick.example");
});
afterAll(() => world.end());

let number = 0;
async function record(type = "freightBooking"): Promise<string> {
  const key = `${type === "freightBooking" ? "B" : "V"}-${40000 + ++number}`;
  await putRecord(admin, "MF", type, key, {
    title: `Record ${number}`,
    fields: type === "freightBooking" ? { sailingDate: "2026-11-18" } : {},
  });
  return key;
}
const file = async (
  type: string,
  key: string,
  documentType: string,
  over: { properties?: Record<string, string>; section?: string } = {},
) =>
  fileText(clerk, `${documentType} ${++number}.txt`, `${documentType} ${key} ${number}`, {
    documentType,
    clips: [{ type, key, ...(over.section ? { section: over.section } : {}) }],
    properties: over.properties ?? {},
  });
const rowOf = async (type: string, key: string, who = admin) => {
  const row = await findVisibleRecord(who, type, key, "MF");
  if (!row) throw new Error(`no ${key}`);
  return row;
};
const sectionsOf = async (type: string, key: string): Promise<Record<string, string | null>> =>
  Object.fromEntries(
    (await listRecordDocuments(admin, await rowOf(type, key), "own", { limit: 100, before: null })).items.map((d) => [d.code, d.section]),
  );
const act = async (who: Actor, type: string, key: string, what: SectionAct) => changeSections(who, await rowOf(type, key), what);
const code = (text: string) =>
  parseDocumentCode(text) ??
  (() => {
    throw new Error(text);
  })();
const tree = (...sections: SectionInput[]) => sectionTreeSchema.parse(sections);

describe("A document that is filed", () => {
  test("goes to the section that takes its type, or to the one that was said", async () => {
    const key = await record();
    const list = await file("freightBooking", key, "packingList");
    const photo = await file("freightBooking", key, "photo");
    const other = await file("freightBooking", key, "other");
    const said = await file("freightBooking", key, "letter", { section: "Order" });
    expect(await sectionsOf("freightBooking", key)).toEqual({
      [list.code]: "Order",
      [photo.code]: "Loading/Pictures",
      [other.code]: null,
      [said.code]: "Order",
    });
  });

  test("follows the rules when it turns out to be something else, unless a person moved it", async () => {
    const key = await record();
    const list = await file("freightBooking", key, "packingList");
    const moved = await file("freightBooking", key, "packingList");
    must(await act(clerk, "freightBooking", key, { act: "move", papers: [moved.code], to: "Claims" }));
    for (const c of [list, moved]) must(await changeDocument(clerk, code(c.code), { documentType: "loadingList", dryRun: false }));
    expect(await sectionsOf("freightBooking", key)).toEqual({ [list.code]: "Loading", [moved.code]: "Claims" });
    // Clipping it to another record too leaves it where it was here.
    const second = await record();
    must(
      await changeDocument(clerk, code(moved.code), {
        clips: [
          { type: "freightBooking", key },
          { type: "freightBooking", key: second },
        ],
        dryRun: false,
      }),
    );
    expect(await sectionsOf("freightBooking", key)).toMatchObject({ [moved.code]: "Claims" });
    expect(await sectionsOf("freightBooking", second)).toEqual({ [moved.code]: "Loading" });
  });
});

describe("Documents of a record", () => {
  test("are moved, many at once, taken out, and put back by what the move answered", async () => {
    const key = await record();
    const papers = [await file("freightBooking", key, "packingList"), await file("freightBooking", key, "photo")].map((p) => p.code);
    const { moved } = must(await act(clerk, "freightBooking", key, { act: "move", papers, to: "Invoice and payment" }));
    expect(moved.map((m) => [m.from, m.to])).toEqual([
      ["Order", "Invoice and payment"],
      ["Loading/Pictures", "Invoice and payment"],
    ]);
    // Twice is once.
    expect(must(await act(clerk, "freightBooking", key, { act: "move", papers, to: "Invoice and payment" })).moved).toEqual([]);
    for (const m of moved) must(await act(clerk, "freightBooking", key, { act: "move", papers: [m.code], to: m.from }));
    expect(Object.values(await sectionsOf("freightBooking", key)).sort()).toEqual(["Loading/Pictures", "Order"]);
    must(await act(clerk, "freightBooking", key, { act: "move", papers, to: null }));
    expect(Object.values(await sectionsOf("freightBooking", key))).toEqual([null, null]);
    expect(await act(clerk, "freightBooking", key, { act: "move", papers, to: "No such" })).toMatchObject({
      refusal: { code: "bad-input" },
    });
    expect(await act(clerk, "freightBooking", key, { act: "move", papers: ["AC-999999"], to: "Order" })).toMatchObject({
      refusal: { code: "not-found" },
    });
    expect(await act(light, "freightBooking", key, { act: "move", papers, to: "Order" })).toMatchObject({
      refusal: { code: "not-allowed" },
    });
  });

  test("that are not placed are put where the rules say, after that was shown; what no section takes stays", async () => {
    const key = await record();
    const list = await file("freightBooking", key, "packingList");
    const other = await file("freightBooking", key, "other");
    await db().execute(sql`update clip set section = 'Old name' where document_id = ${list.id}`);
    const shown = must(await act(clerk, "freightBooking", key, { act: "place", dryRun: true })).moved;
    expect(shown).toMatchObject([{ code: list.code, from: "Old name", to: "Order" }]);
    expect(await sectionsOf("freightBooking", key)).toEqual({ [list.code]: "Old name", [other.code]: null });
    must(await act(clerk, "freightBooking", key, { act: "place", dryRun: false }));
    expect(await sectionsOf("freightBooking", key)).toEqual({ [list.code]: "Order", [other.code]: null });
  });

  test("move with their files where the filing plan has a folder for each section", async () => {
    const rule = (
      await db().execute<{ rule: Record<string, unknown> }>(sql`select rule from folder_rule where record_type = 'freightBooking'`)
    ).rows[0]?.rule;
    await db()
      .update(folderRule)
      .set({ rule: { ...rule, subFolders: "section" } })
      .where(sql`record_type = 'freightBooking'`);
    const key = await record();
    const list = await file("freightBooking", key, "packingList");
    expect(list.path).toContain("/Order/");
    must(await act(clerk, "freightBooking", key, { act: "move", papers: [list.code], to: "Loading" }));
    const place = await db().execute<{ path: string }>(sql`select path from place where document_id = ${list.id}`);
    expect(place.rows[0]?.path).toContain(`${key}/Loading/`);
    await db()
      .update(folderRule)
      .set({ rule })
      .where(sql`record_type = 'freightBooking'`);
  });
});

describe("A record's own sections", () => {
  test("hold for it alone, documents follow what is called otherwise, and it can go back", async () => {
    const [key, beside] = [await record(), await record()];
    const list = await file("freightBooking", key, "packingList");
    const photo = await file("freightBooking", key, "photo");
    const page = await loadRecordPage(admin, "freightBooking", key, "MF");
    const own = (page?.sections.tree ?? []).map((s) =>
      s.key === "loading" ? { ...s, label: "On the quay" } : s.key === "order" ? { ...s, label: "Loading" } : s,
    );
    must(await act(clerk, "freightBooking", key, { act: "change", sections: [...own] }));
    // "Order" is called as "Loading" was: nothing is mixed up.
    expect(await sectionsOf("freightBooking", key)).toEqual({ [list.code]: "Loading", [photo.code]: "On the quay/Pictures" });
    expect((await loadRecordPage(admin, "freightBooking", key, "MF"))?.sections).toMatchObject({ isOwn: true, hasTemplate: true });
    expect((await loadRecordPage(admin, "freightBooking", beside, "MF"))?.sections.isOwn).toBe(false);
    expect(must(await listTemplates(admin)).items.find((t) => t.recordType === "freightBooking")?.ownRecords).toBe(1);
    expect(
      await act(clerk, "freightBooking", key, { act: "change", sections: [...tree({ key: "a", label: "A" }, { key: "b", label: "A" })] }),
    ).toMatchObject({
      refusal: { code: "bad-input" },
    });
    must(await act(clerk, "freightBooking", key, { act: "reset" }));
    expect((await loadRecordPage(admin, "freightBooking", key, "MF"))?.sections.isOwn).toBe(false);
    // What stands in a section that the type does not have is not placed, and one button puts it right.
    must(await act(clerk, "freightBooking", key, { act: "place", dryRun: false }));
    expect((await sectionsOf("freightBooking", key))[photo.code]).toBe("Loading/Pictures");
  });
});

describe("The sections of a record type", () => {
  test("are followed by documents when they are renamed, and stale changes are refused", async () => {
    const key = await record();
    const list = await file("freightBooking", key, "packingList");
    const { version, tree: before } = await loadTemplate("freightBooking");
    const renamed = before.map((s) => (s.key === "order" ? { ...s, label: "Booking" } : s));
    must(await saveTemplate(admin, "freightBooking", { sections: [...renamed], applies: "all", version }));
    expect((await sectionsOf("freightBooking", key))[list.code]).toBe("Booking");
    expect(await saveTemplate(admin, "freightBooking", { sections: [...before], applies: "all", version })).toMatchObject({
      refusal: { code: "stale" },
    });
    expect(await saveTemplate(clerk, "freightBooking", { sections: [], applies: "all", version: version + 1 })).toMatchObject({
      refusal: { code: "not-allowed" },
    });
    must(await saveTemplate(admin, "freightBooking", { sections: [...before], applies: "all", version: version + 1 }));
    expect((await sectionsOf("freightBooking", key))[list.code]).toBe("Order");
  });

  test("that are by choice are had by records that somebody gave them to", async () => {
    must(
      await saveTemplate(admin, "vessel", {
        sections: [...tree({ key: "papers", label: "Ship's documents", show: "always", documentTypes: ["certificate"] })],
        applies: "choice",
        version: 0,
      }),
    );
    const key = await record("vessel");
    const certificate = await file("vessel", key, "certificate");
    expect((await loadRecordPage(admin, "vessel", key, "MF"))?.sections).toMatchObject({ tree: [], hasTemplate: true });
    must(await act(clerk, "vessel", key, { act: "apply" }));
    expect((await loadRecordPage(admin, "vessel", key, "MF"))?.sections.tree).toHaveLength(1);
    expect((await sectionsOf("vessel", key))[certificate.code]).toBeNull();
    must(await act(clerk, "vessel", key, { act: "place", dryRun: false }));
    expect((await sectionsOf("vessel", key))[certificate.code]).toBe("Ship's documents");
    expect(await act(clerk, "supplierAccount", await nobodysType(), { act: "apply" })).toMatchObject({ refusal: { code: "not-found" } });
  });
});

async function nobodysType(): Promise<string> {
  await putRecord(admin, "MF", "supplierAccount", "S-9", { title: "Nobody" });
  return "S-9";
}
