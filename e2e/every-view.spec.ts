import { findings } from "./support/axe.ts";
import { expect, signIn, test } from "./support/world.ts";

/** The main views but Arrivals, which claims the document that is open. These are only looked at, whatever stands on them, and so while the journeys go on beside. */
const views = [
  ["Desk", "/desk"],
  ["Camera", "/capture"],
  ["Empty bench", "/bench"],
  ["Bench", "/bench?documents=AC-000477"],
  ["Register", "/arrivals/register"],
  ["Filed automatically", "/arrivals/automatic-filing"],
  ["Records", "/records"],
  ["A record type", "/records/freightBooking"],
  ["A record", "/records/freightBooking/B-20418?company=MF&scope=chain"],
  ["Missing documents", "/records/missing"],
  ["Page through", "/records/freightBooking/B-20418/flip?company=MF&scope=chain"],
  ["Checklists", "/filing-plan/checklists?type=freightBooking"],
  ["Sections", "/filing-plan/sections?type=freightBooking"],
  ["Sections in a window", "/sections/freightBooking/B-20418?company=MF"],
  ["A document", "/documents/AC-000477"],
  ["Find", "/find?q=toner"],
  ["Filing plan", "/filing-plan?type=freightBooking"],
  ["Set-up", "/set-up"],
  ["Repository", "/repository"],
  ["Locations", "/repository?view=locations"],
  ["Out of sync", "/repository?view=outOfSync"],
  ["Move plans", "/filing-plan/moves"],
  ["New connection", "/set-up/connections/connection2"],
] as const;

test("axe finds nothing wrong on the main views, light and dark", async ({ page }) => {
  test.setTimeout(180_000);
  await page.goto("/sign-in");
  await expect(page.getByLabel("Mail address")).toBeVisible();
  expect(await findings(page), "Sign in").toEqual([]);
  await signIn(page, "administrator", "/desk");
  for (const [name, address] of views) {
    await page.goto(address);
    await expect(page.locator("h1")).toBeVisible();
    await expect(page.locator("[aria-busy=true]")).toHaveCount(0);
    expect(await findings(page), name).toEqual([]);
  }
});
