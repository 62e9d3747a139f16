import { decideFileName, decideSubFolder, decideTitle, filePatternOf } from "./decide-file-name.ts";
import { decideFolder, type FolderRecord } from "./decide-folder.ts";
import { checkFolderRule, type FolderRule, folderRuleSchema } from "./folder-rule.ts";
import { diskLimits } from "./legal-name.ts";
import { recordTypeSchema } from "../records/record-type.ts";

const booking: FolderRecord = {
  company: "MF",
  key: "B-20418",
  title: "Orrin, 3 trailers",
  status: "sailed",
  date: "2026-11-18",
  fields: { sailingDate: "2026-11-18", vessel: "MV Sandling" },
};
const rule: FolderRule = folderRuleSchema.parse({
  kind: "passing",
  inside: { otherwise: "Unassigned bookings" },
  rootFolder: "Bookings",
  groupedBy: { field: "sailingDate", period: "year" },
  folderName: "{key}",
  tellApart: null,
  fileName: "{title}",
});
const at = (r: Partial<FolderRule>, record: Partial<FolderRecord> = {}, parent: readonly string[] | null = ["Customers", "Orrin C-1042"]) =>
  decideFolder({ ...booking, ...record }, { ...rule, ...r }, parent, diskLimits);

describe("Where a record's folder goes", () => {
  test("inside the account's folder, below its root folder, by year, under its name", () =>
    expect(at({}).segments).toEqual(["Customers", "Orrin C-1042", "Bookings", "2026", "B-20418"]));
  test("without an account it goes to the folder for those, and says so", () => {
    const proposal = at({}, {}, null);
    expect(proposal.segments).toEqual(["Unassigned bookings", "B-20418"]);
    expect(proposal.unassigned).toBe(true);
  });
  test("a rule that is inside nothing ignores the account", () =>
    expect(at({ inside: null }).segments).toEqual(["Bookings", "2026", "B-20418"]));
  test("by month", () => expect(at({ inside: null, groupedBy: { field: "sailingDate", period: "month" } }).segments[1]).toBe("2026-11"));
  test("a record without the date goes by its own date, and without that to undated", () => {
    expect(at({ inside: null }, { fields: {} }).segments[1]).toBe("2026");
    expect(at({ inside: null }, { fields: {}, date: null }).segments[1]).toBe("undated");
  });
  test("root folders may have steps, and steps cannot climb", () => {
    expect(at({ inside: null, rootFolder: "Finance/Journals", groupedBy: null }).segments).toEqual(["Finance", "Journals", "B-20418"]);
    expect(at({ inside: null, rootFolder: "../../etc", groupedBy: null }).segments).toEqual(["unnamed", "unnamed", "etc", "B-20418"]);
  });
  test("slashes in a value stay in the name", () =>
    expect(at({ inside: null, groupedBy: null, folderName: "{title}" }, { title: "a/../b" }).segments).toEqual(["Bookings", "a-..-b"]));
  test("a name that comes out empty is the record's number", () =>
    expect(at({ folderName: "{vessel}" }, { fields: {} }).segments.at(-1)).toBe("B-20418"));
  test("the tell-apart field stands behind the name, when the record has it", () => {
    expect(at({ folderName: "{vessel}", tellApart: "key" }).toldApart?.at(-1)).toBe("MV Sandling B-20418");
    expect(at({ tellApart: "yourReference" }).toldApart).toBeNull();
  });
});

describe("Variants", () => {
  const variants = folderRuleSchema.parse({
    ...rule,
    variants: [
      { when: [{ field: "route", compare: "is", value: "Charter freight" }], rootFolder: "Charter bookings" },
      {
        when: [
          { field: "sailingDate", compare: "isBefore", value: "2020-01-01" },
          { field: "company", compare: "is", value: "mf" },
        ],
        inside: false,
        rootFolder: "Old bookings",
        groupedBy: null,
        folderName: "{key} {vessel}",
        connection: "archive",
      },
    ],
  }).variants;
  test("the first that fits decides", () =>
    expect(at({ variants }, { fields: { route: "charter FREIGHT" } }).segments[2]).toBe("Charter bookings"));
  test("all its conditions have to fit, and it may go to another connection", () => {
    const old = at({ variants }, { fields: { sailingDate: "2019-05-01", vessel: "MV One" } });
    expect(old).toMatchObject({ connection: "archive", segments: ["Old bookings", "B-20418 MV One"] });
    expect(at({ variants }, { company: "QS", fields: { sailingDate: "2019-05-01" } }).connection).toBe("companyFolders");
  });
  test("none fits: the rule as it is", () => expect(at({ variants }).segments[2]).toBe("Bookings"));
  test.each([
    ["is", "émil", true],
    ["isNot", "emil", false],
    ["contains", "mi", true],
    ["startsWith", "Em", true],
    ["startsWith", "mi", false],
    ["isEmpty", "", false],
    ["isNotEmpty", "", true],
  ] as const)("%s %s: %s", (compare, value, does) => {
    const r = { variants: [{ when: [{ field: "name", compare, value }], rootFolder: "Yes" }] };
    expect(at(r, { fields: { name: "Emil" } }).segments[2]).toBe(does ? "Yes" : "Bookings");
  });
  test.each([
    ["isBefore", "9", "10", true],
    ["isFrom", "10", "9", true],
    ["isFrom", "8", "9", false],
    ["isFrom", "9.5", "9.50", true],
    ["isBefore", "2026-01-31", "2026-02-01", true],
    ["isBefore", "", "5", false],
  ] as const)("numbers and days by their value: %s %s %s is %s", (compare, has, value, does) => {
    const r = { variants: [{ when: [{ field: "size", compare, value }], rootFolder: "Yes" }] };
    expect(at(r, { fields: { size: has } }).segments[2]).toBe(does ? "Yes" : "Bookings");
  });
});

describe("Sub-folders and file names by document type", () => {
  const full = folderRuleSchema.parse({ ...rule, subFolders: "section", fileNames: { letter: "{filedOn} {title} v{version}" } });
  test.each([
    [{ section: "Customs/Export", typePlural: "Letters" }, "section", ["Customs", "Export"]],
    [{ section: null, typePlural: "Letters" }, "section", []],
    [{ section: "Customs", typePlural: "Letters" }, "documentType", ["Letters"]],
    [{ section: "../..", typePlural: "Letters" }, "section", ["unnamed", "unnamed"]],
    [{ section: "Customs", typePlural: "Letters" }, null, []],
  ] as const)("%j by %s", (document, subFolders, folders) =>
    expect(decideSubFolder({ ...full, subFolders }, document, diskLimits)).toEqual(folders),
  );
  test("a type's own pattern goes before the rule's", () => {
    const document = { documentType: "Letter", title: "To Orrin", code: "AC-1", filedOn: "2026-11-20", properties: {}, version: 3 };
    expect(decideFileName(filePatternOf(full, "letter"), document, booking, ".pdf", diskLimits)).toBe("2026-11-20 To Orrin v3.pdf");
    expect(filePatternOf(full, "toString")).toBe("{title}");
  });
});

describe("Mistakes in a rule are named where they are", () => {
  const type = recordTypeSchema.parse({
    key: "freightBooking",
    label: "Freight booking",
    plural: "Freight bookings",
    kind: "passing",
    icon: "truck",
    short: "Booking",
    parent: ["customerAccount"],
    order: 1,
    fields: [
      { key: "sailingDate", label: "Sailing", kind: "date" },
      { key: "vessel", label: "Vessel", kind: "text" },
    ],
  });
  const cases: readonly (readonly [Partial<FolderRule>, string | null])[] = [
    [{}, null],
    [{ folderName: "{nothing}" }, "folderName"],
    [{ folderName: "all" }, "folderName"],
    [{ folderName: "{key" }, "folderName"],
    [{ fileName: "same" }, "fileName"],
    [{ fileName: "{record.nothing}" }, "fileName"],
    [{ groupedBy: { field: "vessel", period: "year" } }, "groupedBy"],
    [{ groupedBy: { field: "date", period: "year" } }, null],
    [{ tellApart: "nothing" }, "tellApart"],
    [{ inside: { otherwise: " " } }, "inside"],
    [{ inside: null, rootFolder: "" }, "rootFolder"],
    [{ connection: "nowhere" }, "connection"],
    [{ fileNames: { poem: "{title}" } }, "fileNames.poem"],
    [{ fileNames: { letter: "{title" } }, "fileNames.letter"],
    [{ variants: [{ when: [{ field: "route", compare: "is", value: "x" }] }] }, "variants.0"],
    [{ variants: [{ when: [{ field: "vessel", compare: "is", value: "" }] }] }, "variants.0"],
    [{ variants: [{ when: [{ field: "vessel", compare: "isEmpty", value: "" }], folderName: "all" }] }, "variants.0"],
    [
      { variants: [{ when: [{ field: "vessel", compare: "isEmpty", value: "" }], groupedBy: { field: "vessel", period: "year" } }] },
      "variants.0",
    ],
    [{ variants: [{ when: [{ field: "vessel", compare: "isEmpty", value: "" }], inside: false, rootFolder: "" }] }, "variants.0"],
    [{ variants: [{ when: [{ field: "vessel", compare: "isEmpty", value: "" }], connection: "nowhere" }] }, "variants.0"],
  ];
  test.each(cases)("%j → %s", (change, path) =>
    expect(
      checkFolderRule({ ...rule, ...change }, type, { connections: ["companyFolders"], documentTypes: ["letter"] })[0]?.path ?? null,
    ).toBe(path),
  );
  test("inside is refused for a type that sits beneath nothing", () =>
    expect(checkFolderRule(rule, { ...type, parent: [] }).map((e) => e.path)).toContain("inside"));
});

describe("Titles and file names", () => {
  const document = {
    documentType: "Supplier invoice",
    code: "AC-000001",
    filedOn: "2026-11-20",
    properties: { documentNumber: "77/3108", net: null },
  };
  test("the title follows the type's pattern", () =>
    expect(decideTitle("{documentType} {documentNumber|record.key}", document, booking)).toBe("Supplier invoice 77/3108"));
  test("without the number it falls back to the record's", () =>
    expect(decideTitle("{documentType} {documentNumber|record.key}", { ...document, properties: {} }, booking)).toBe(
      "Supplier invoice B-20418",
    ));
  test("a pattern that leaves nothing gives the type", () => expect(decideTitle("{note}", document, null)).toBe("Supplier invoice"));
  test("the file name is legal and has the content's ending", () =>
    expect(decideFileName("{title}", { ...document, title: "Supplier invoice 77/3108" }, booking, ".pdf", diskLimits)).toBe(
      "Supplier invoice 77-3108.pdf",
    ));
});
