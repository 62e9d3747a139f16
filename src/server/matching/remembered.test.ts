import { remembered, rememberFor } from "./remembered.ts";

afterEach(() => rememberFor(0));

test("nothing is remembered unless a process asks for it", async () => {
  let loads = 0;
  const load = remembered(async () => ++loads);
  expect([await load(), await load()]).toEqual([1, 2]);
});

test("the same answer is given for a moment, then it is asked again; a failure is forgotten at once", async () => {
  rememberFor(10_000);
  let loads = 0;
  const load = remembered(async () => ++loads);
  expect([await load(), await load()]).toEqual([1, 1]);
  let fails = 0;
  const failing = remembered(async () => {
    if (++fails === 1) throw new Error("away");
    return "there";
  });
  await expect(failing()).rejects.toThrow("away");
  expect(await failing()).toBe("there");
});
