import { api, expect, test } from "./support/world.ts";

test("what waits in the demo has been read", async ({ request }) => {
  test.setTimeout(8 * 60_000);
  const open = async (): Promise<number> =>
    ((await (await api(request).get("/arrivals?state=waiting,reading&limit=1")).json()) as { items: readonly unknown[] }).items.length;
  await expect.poll(open, { timeout: 7 * 60_000, intervals: [1000] }).toBe(0);
});
