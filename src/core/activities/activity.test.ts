import { activityFile, activitySchema } from "./activity.ts";

const record = { key: "B-20418", title: "Orrin Shellfish" };
describe("An activity", () => {
  test("is kept as text with what it is on top", () =>
    expect(
      activityFile(
        activitySchema.parse({ kind: "call", about: "trailer 3 late", on: "2026-11-18", with: "Runa Skarr", text: "At the gate by 7." }),
        record,
      ),
    ).toEqual({
      title: "Call: trailer 3 late",
      text: "Call: trailer 3 late\nDate: 2026-11-18\nWith: Runa Skarr\nRecord: B-20418 Orrin Shellfish\n\nAt the gate by 7.\n",
    }));
  test("needs to be about something, on a day", () => {
    expect(activitySchema.safeParse({ kind: "call", about: " ", on: "2026-11-18" }).success).toBe(false);
    expect(activitySchema.safeParse({ kind: "call", about: "x", on: "2026-02-30" }).success).toBe(false);
    expect(activitySchema.safeParse({ kind: "dance", about: "x", on: "2026-02-03" }).success).toBe(false);
    expect(activitySchema.parse({ kind: "visit", about: "x", on: "2026-02-03" })).toMatchObject({ with: "", text: "" });
  });
});
