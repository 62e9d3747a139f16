import { pdfFile } from "./support/papers.ts";
import { api, expect, readArrival, signIn, test } from "./support/world.ts";

test("a number is found however it is spelt, narrowed by filters, and the address shows the same again", async ({ page }) => {
  await signIn(page, "clerk", "/find");
  const field = page.getByLabel("Find papers by any word on them");
  for (const typed of ["B-20418", "b20418", "B 20418"]) {
    await field.fill(typed);
    await expect(page.getByRole("link", { name: "Packing list B-20418" })).toBeVisible();
  }
  await page
    .getByRole("complementary", { name: "Filters" })
    .getByRole("button", { name: /Packing list/ })
    .click();
  await expect(page).toHaveURL(/type=packingList/);
  await page.reload();
  await expect(page.getByRole("status").filter({ hasText: "paper" })).toHaveText("1 paper");
  await expect(page.getByText("Take the filters off")).toHaveCount(0);
  await field.fill("bunkering");
  await page.getByRole("button", { name: "Take the filters off" }).click();
  await page.getByRole("button", { name: /words that begin like these/ }).click();
  await expect(field).toHaveValue("bunker*");
  await expect(page.locator("mark").first()).toBeVisible();
  await page.locator("article").first().click();
  await expect(page.getByRole("region", { name: "The paper" }).getByAltText("Page 1")).toBeVisible();
});

test("a paper is read: zoomed, turned, fitted, searched, and its words selected", async ({ page, request }) => {
  const lines = Array.from({ length: 20 }, (_, i) => `Line ${i + 1} of the page`);
  const made = (await (await api(request).upload(await pdfFile("to view.pdf", lines, [...lines, "The heron stands here"]))).json()) as {
    id: string;
  };
  await readArrival(request, made.id);
  await signIn(page, "administrator", `/arrivals?at=${made.id}`);
  const viewer = page.getByRole("region", { name: "The paper" }).locator(".viewer");
  const first = viewer.locator("[data-page='1']");
  await expect(first.getByAltText("Page 1")).toBeVisible();
  await expect(page.getByText("page 1 of 2")).toBeVisible();
  const width = async () => (await first.boundingBox())?.width ?? 0;
  const fitted = await width();
  await page.keyboard.press("+");
  await expect.poll(width).not.toBe(fitted);
  await page.keyboard.press("w");
  await expect.poll(width).toBe(fitted);
  await page.keyboard.press("r");
  await expect
    .poll(async () => {
      const box = await first.boundingBox();
      return (box?.width ?? 0) > (box?.height ?? 0);
    })
    .toBe(true);
  await page.keyboard.press("Control+f");
  await page.getByLabel("Search in the paper").last().fill("heron stands");
  await expect(page.getByText("1 of 1")).toBeVisible();
  await expect(viewer.locator(".hit.now")).toBeVisible();
  expect(await viewer.locator("[data-page='2'] .word").allTextContents()).toContain("heron ");
});

test("tables, mails, text and what has no view are shown without running anything", async ({ page, request }) => {
  const upload = async (name: string, mimeType: string, text: string): Promise<string> => {
    const made = (await (await api(request).upload({ name, mimeType, buffer: Buffer.from(text) })).json()) as { id: string };
    await readArrival(request, made.id);
    return made.id;
  };
  await signIn(page, "administrator");
  let ran = false;
  await page.exposeFunction("ranFromPaper", () => {
    ran = true;
  });
  const attack = `<img src=x onerror="ranFromPaper()"><script>ranFromPaper()</script>`;
  const views: readonly (readonly [string, string, string, string])[] = [
    ["table.csv", "text/csv", `a,b,c\n1,"${attack.replaceAll('"', '""')}",=1+1\n2,x,y\n`, "=1+1"],
    ["words.txt", "text/plain", `Plain ${attack}`, "Plain <img"],
    ["page.html", "text/html", `<html><body>${attack}<p>Hypertext</p></body></html>`, "Hypertext"],
    ["picture.svg", "image/svg+xml", `<svg xmlns="http://www.w3.org/2000/svg" onload="ranFromPaper()"><text>drawn</text></svg>`, "drawn"],
    [
      "letter.eml",
      "message/rfc822",
      `From: a@b.example\r\nTo: c@d.example\r\nSubject: Hello\r\nContent-Type: text/html\r\n\r\n${attack}<p>Mailed words</p>`,
      "Mailed words",
    ],
  ];
  for (const [name, mimeType, text, seen] of views) {
    const id = await upload(name, mimeType, text);
    await page.goto(`/arrivals?at=${id}`);
    await expect(page.locator(".viewer"), name).toContainText(seen);
    const content = await api(request).get(`/arrivals/${id}/content`);
    expect(content.headers()["content-disposition"], name).toContain("attachment");
    expect(content.headers()["content-security-policy"], name).toContain("sandbox");
    expect(content.headers()["x-content-type-options"], name).toBe("nosniff");
  }
  expect(ran).toBe(false);
});
