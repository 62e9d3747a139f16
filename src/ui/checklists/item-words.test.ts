import { itemHint } from "./item-words.ts";

const TODAY = "2026-11-20";
const item = (over: Partial<Parameters<typeof itemHint>[0]>) => ({
  state: "outstanding",
  dueOn: null,
  expiresOn: null,
  have: 0,
  want: 1,
  ...over,
});

describe("What is said beside an item", () => {
  const cases: readonly (readonly [string, Partial<Parameters<typeof itemHint>[0]>, string, boolean])[] = [
    ["nothing, when nothing is to be done by a day", {}, "", false],
    ["when it is due", { dueOn: "2026-12-03" }, "due 3 Dec", false],
    ["the year, when it is another", { dueOn: "2027-01-03" }, "due 3 Jan 2027", false],
    ["tomorrow", { dueOn: "2026-11-21" }, "due tomorrow", false],
    ["today", { dueOn: TODAY }, "due today", true],
    ["a day late", { dueOn: "2026-11-19" }, "1 day overdue", true],
    ["days overdue", { dueOn: "2026-11-10" }, "10 days overdue", true],
    ["since when, once that is long ago", { dueOn: "2026-09-01" }, "overdue since 1 Sep", true],
    ["how many are there of how many", { want: 3, have: 1 }, "1 of 3", false],
    ["both", { want: 3, have: 1, dueOn: TODAY }, "1 of 3, due today", true],
    ["that somebody has to look", { state: "received" }, "check it", false],
    ["when it expired", { state: "expired", expiresOn: "2026-11-01" }, "expired 1 Nov", true],
    ["until when it is valid, when that is soon", { state: "complete", expiresOn: "2026-12-15" }, "until 15 Dec", false],
    ["nothing, when it is valid for long", { state: "complete", expiresOn: "2027-12-15" }, "", false],
    ["nothing of one that is waived", { state: "waived", want: 3 }, "", false],
  ];
  test.each(cases)("%s", (_, over, words, isUrgent) => expect(itemHint(item(over), TODAY)).toEqual({ words, isUrgent }));
});
