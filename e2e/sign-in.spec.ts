import { expect, people, signIn, test } from "./support/world.ts";

test("a wrong password is said, the right one leads where one wanted to go, and signing out ends it", async ({ page }) => {
  await page.goto("/records/purchaseOrder?q=rope");
  await expect(page).toHaveURL(/\/sign-in\?to=/);
  await page.getByLabel("Mail address").fill(people.clerk);
  await page.getByLabel("Password").fill("not this one");
  await page.getByRole("button", { name: "Sign in" }).click();
  await expect(page.getByRole("alert").filter({ hasText: "is wrong" })).toBeVisible();
  await page.getByLabel("Password").fill("harbour-light-26");
  await page.getByRole("button", { name: "Sign in" }).click();
  await expect(page).toHaveURL(/\/records\/purchaseOrder/);
  await page.getByRole("button", { name: /person menu/ }).click();
  await page.getByRole("button", { name: "Sign out" }).click();
  await expect(page).toHaveURL(/\/sign-in/);
  await page.goto("/arrivals");
  await expect(page).toHaveURL(/\/sign-in/);
});

test("an address of another site is never reached by signing in here", async ({ page }) => {
  await page.goto("/sign-in?to=//elsewhere.example/");
  await page.getByLabel("Mail address").fill(people.clerk);
  await page.getByLabel("Password").fill("harbour-light-26");
  await page.getByRole("button", { name: "Sign in" }).click();
  await expect(page).toHaveURL(/\/desk$/);
});

test("each person finds the places that their roles cover, and no others", async ({ page }) => {
  await signIn(page, "lightUser", "/desk");
  const rail = page.getByRole("navigation", { name: "Main menu" });
  await expect(rail.getByRole("link", { name: "Find" })).toBeVisible();
  await expect(rail.getByRole("link", { name: "Filing plan" })).toHaveCount(0);
  await expect(rail.getByRole("link", { name: "Set-up" })).toHaveCount(0);
  await page.goto("/records");
  await expect(page.getByText("Freight bookings")).toBeVisible();
  await expect(page.getByText("Crew members")).toHaveCount(0);
  await page.goto("/records/crewMember/E-301?company=MF");
  await expect(page.getByText("Not found")).toBeVisible();
  await page.goto("/filing-plan");
  await expect(page.getByText("Not found")).toBeVisible();
});

test("a view is fetched ahead when somebody points at its link, and not for every link in sight", async ({ page }) => {
  await signIn(page, "clerk", "/desk");
  const ahead: string[] = [];
  page.on("request", (request) => {
    const url = new URL(request.url());
    if (url.searchParams.has("_rsc")) ahead.push(url.pathname);
  });
  await page.goto("/desk");
  await expect(page.getByRole("link", { name: /PO-|B-/ }).first()).toBeVisible();
  await page.waitForLoadState("networkidle");
  expect(ahead).toEqual([]);
  await page.getByRole("navigation", { name: "Main menu" }).getByRole("link", { name: "Find" }).hover();
  await expect.poll(() => [...new Set(ahead)]).toEqual(["/find"]);
});
