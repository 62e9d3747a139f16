import { folderRuleSchema } from "./folder-rule.ts";
import { comparePlans, planFileSchema } from "./plan-file.ts";

const rule = folderRuleSchema.parse({
  kind: "standing",
  inside: null,
  rootFolder: "Fleet",
  groupedBy: null,
  folderName: "{name}",
  tellApart: "key",
  fileName: "{title}",
});

describe("A filing plan as a file", () => {
  test("needs nothing that has a usual value", () =>
    expect(
      planFileSchema.parse({
        rules: {
          vessel: {
            kind: "standing",
            inside: null,
            rootFolder: "Fleet",
            groupedBy: null,
            folderName: "{name}",
            tellApart: "key",
            fileName: "{title}",
          },
        },
      }).rules["vessel"],
    ).toEqual(rule));
  test.each([
    [{ rules: { Vessel: rule } }],
    [{ rules: { vessel: { ...rule, kind: "sitting" } } }],
    [{ version: 2, rules: {} }],
    [{}],
    ["text"],
  ])("that is none is refused: %j", (file) => expect(planFileSchema.safeParse(file).success).toBe(false));
  test("is compared part by part with what is in force", () => {
    const file = planFileSchema.parse({
      rules: { vessel: { ...rule, rootFolder: "Ships", groupedBy: { field: "date", period: "year" } }, contact: rule, refit: rule },
    });
    expect(comparePlans({ vessel: rule, contact: { ...rule } }, file)).toEqual([
      {
        recordType: "vessel",
        kind: "changed",
        changes: [
          { part: "rootFolder", from: "Fleet", to: "Ships" },
          { part: "groupedBy", from: "", to: '{"field":"date","period":"year"}' },
        ],
      },
      { recordType: "contact", kind: "same", changes: [] },
      { recordType: "refit", kind: "added", changes: [] },
    ]);
  });
});
