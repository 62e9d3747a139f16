import { makePdf } from "./support/papers.ts";
import { api, expect, readArrival, signIn, test } from "./support/world.ts";

test("limits are set in the browser, told before upload, and hold for content that hides behind its name", async ({ page, request }) => {
  await signIn(page, "administrator", "/set-up");
  const before = await (await api(request).get("/settings/limits")).json();
  try {
    await page.getByLabel("Most pages per document").fill("2");
    await page.getByLabel("Largest file, MB").fill("1");
    await page.getByLabel("GIF picture").uncheck();
    await page.getByRole("button", { name: "Save limits" }).click();
    await expect(page.getByText("Limits saved")).toBeVisible();

    await page.goto("/arrivals");
    await page
      .getByTestId("choose-files")
      .setInputFiles({ name: "too large.pdf", mimeType: "application/pdf", buffer: Buffer.alloc(1_200_000, 1) });
    await expect(page.getByRole("region", { name: "Uploads" })).toContainText(/larger/);

    const long = (await (
      await api(request).upload({ name: "long.pdf", mimeType: "application/pdf", buffer: await makePdf(["1"], ["2"], ["3"]) })
    ).json()) as { id: string };
    expect(await readArrival(request, long.id)).toMatchObject({ state: "failed", problem: { code: "too-many-pages" } });
    const gif = Buffer.from("R0lGODlhAQABAIAAAAAAAP///yH5BAEAAAAALAAAAAABAAEAAAIBRAA7", "base64");
    const hidden = (await (await api(request).upload({ name: "hidden.pdf", mimeType: "application/pdf", buffer: gif })).json()) as {
      id: string;
    };
    expect(await readArrival(request, hidden.id)).toMatchObject({ problem: { code: "type-not-allowed" } });
    expect((await api(request).upload({ name: "big.bin", mimeType: "application/pdf", buffer: Buffer.alloc(1_200_000, 1) })).status()).toBe(
      413,
    );
  } finally {
    expect((await api(request).put("/settings/limits", before)).ok()).toBe(true);
  }
});

test("people, roles and types are shown", async ({ page }) => {
  await signIn(page, "administrator", "/set-up");
  await expect(page.getByRole("row", { name: /Tam Corrigall/ })).toContainText("Filing clerk");
  await expect(page.getByRole("row", { name: /Freight booking/ }).first()).toContainText("Customer account");
});
