import { freeKey, moved } from "./lists.ts";

test.each([
  [0, 1, ["b", "a", "c"]],
  [2, -2, ["c", "a", "b"]],
  [9, 1, ["a", "b", "c"]],
])("the entry at %i moved by %i", (at, by, list) => expect(moved(["a", "b", "c"], at, by)).toEqual(list));

test("a free key is taken by nothing, also when one in between is gone", () => {
  expect(freeKey("item", [])).toBe("item1");
  expect(freeKey("item", ["item1", "item3"])).toBe("item4");
  expect(freeKey("item", ["x", "item2"])).toBe("item3");
});
