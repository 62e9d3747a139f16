import { readFile } from "node:fs/promises";
import path from "node:path";
import nodemailer from "nodemailer";
import { pdfFile } from "./support/papers.ts";
import { api, dataFolder, expect, readArrival, signIn, test } from "./support/world.ts";

/**
 * Promise 6. Somebody who may not see crew documents, nor the other company's, is told of them nowhere: every call that lists, counts, finds
 * or names things is asked, and the answers are searched for words that only those documents and records hold.
 */
test("no list, count, hit, path, picture, timeline or error tells of what a person's grants do not cover", async ({ page, request }) => {
  const all = api(request);
  const light = api(request, "lightUser");
  const clerk = api(request, "clerk");
  const secret = "Ptarmigan-771";
  const made = (await (
    await all.upload(await pdfFile(`${secret}.pdf`, [`Medical certificate ${secret}`]), { queue: "crew-office" })
  ).json()) as { id: string };
  await readArrival(request, made.id);
  await all.put(`/records/crewMember/${secret}?company=MF`, { title: `Crew ${secret}`, fields: { name: secret } });
  const filed = await (
    await all.post(`/arrivals/${made.id}/file`, {
      documentType: "medicalCertificate",
      title: `Medical ${secret}`,
      clips: [{ company: "MF", type: "crewMember", key: secret }],
    })
  ).json();
  await expect.poll(async () => (await (await all.get(`/find?q=${secret}`)).json()).total).toBe(1);

  for (const [who, call] of [
    ["light user", light],
    ["clerk", clerk],
  ] as const) {
    for (const address of [
      `/find?q=${secret}`,
      "/find?q=medical",
      `/find?q=`,
      `/records/lookup?q=${secret}`,
      "/records/lookup?q=",
      `/records?type=crewMember`,
      "/records/counts",
      "/checklists/missing?limit=200",
      "/checklists/missing?view=expiring&limit=200",
      "/checklists/counts",
      "/packs",
      `/register?q=${secret}`,
      "/register?limit=200",
      "/arrivals?state=filed&limit=200",
      "/arrivals/counts",
      "/me",
    ]) {
      const answer = await call.get(address);
      expect(answer.status(), `${who} ${address}`).toBe(200);
      const text = await answer.text();
      expect(text.toLowerCase(), `${who} ${address}`).not.toContain(secret.toLowerCase());
      if (address === "/me" || address === "/records/counts" || address.startsWith("/find"))
        expect(text, `${who} ${address}`).not.toContain("medicalCertificate");
    }
    for (const address of [
      `/records/crewMember/${secret}?company=MF`,
      `/records/crewMember/${secret}/documents?company=MF`,
      `/records/crewMember/${secret}/timeline?company=MF`,
      `/documents/${filed.code}`,
      `/documents/${filed.code}/content`,
      `/documents/${filed.code}/text`,
      `/documents/${filed.code}/view`,
      `/documents/${filed.code}/pages/1.png`,
      `/documents/${filed.code}/pages/1.words`,
      `/documents/${filed.code}/timeline`,
      `/arrivals/${made.id}`,
      `/arrivals/${made.id}/content`,
      `/arrivals/${made.id}/timeline`,
    ]) {
      const there = await call.get(address);
      expect(there.status(), `${who} ${address}`).toBe(404);
      // Not there and not allowed are answered alike, to the letter.
      const absent = await call.get(
        address
          .replace(secret, "Nobody-1")
          .replace(String(filed.code), "AC-999999")
          .replace(made.id, "00000000-0000-4000-8000-000000000000"),
      );
      expect(await there.text(), `${who} ${address}`).toBe(await absent.text());
    }
    expect((await call.post(`/documents/${filed.code}/unfile`)).status()).toBe(404);
    expect((await call.post(`/arrivals/${made.id}/set-aside`, { reason: "x" })).status()).toBe(404);
  }

  // Folders and files are named after their records and documents: the tree, its tables, findings and plans tell no more than the lists do.
  const tree = async (call: typeof all, path: string): Promise<string> => {
    const level = await call.get(`/repository/tree?connection=companyFolders&path=${encodeURIComponent(path)}`);
    return level.status() === 200 ? level.text() : String(level.status());
  };
  await expect.poll(async () => tree(all, "Crew")).toContain(secret);
  const account = (JSON.parse(await tree(all, "Crew")) as { items: { path: string; name: string }[] }).items.find((n) =>
    n.name.includes(secret),
  );
  for (const [who, call] of [
    ["light user", light],
    ["clerk", clerk],
  ] as const) {
    for (const path of ["", "Crew", account?.path ?? "", "Fleet"]) expect(await tree(call, path), `${who} ${path}`).not.toContain(secret);
    for (const address of [
      `/repository/locations?q=${secret}`,
      "/repository/locations?limit=200",
      "/repository/shelves",
      "/repository/findings?limit=200",
      "/move-plans",
    ]) {
      const answer = await call.get(address);
      expect([200, 403], `${who} ${address}`).toContain(answer.status());
      expect(await answer.text(), `${who} ${address}`).not.toContain(secret);
    }
  }

  // A document that comes in about something hidden tells nothing of whether that is there.
  const { mail } = JSON.parse(await readFile(path.join(dataFolder(), "ways-in.json"), "utf8")) as {
    mail: { host: string; port: number; domain: string };
  };
  const mailer = nodemailer.createTransport({ host: mail.host, port: mail.port, ignoreTLS: true });
  const about = async (code: string, subject: string): Promise<unknown> => {
    await mailer.sendMail({ from: "x@elsewhere.example", to: `general+${code}@${mail.domain}`, subject, text: subject });
    await expect
      .poll(async () => (await (await all.get(`/arrivals?q=${encodeURIComponent(subject)}`)).json()).items?.[0]?.state)
      .toBe("ready");
    const mine = (await (await light.get(`/arrivals?q=${encodeURIComponent(subject)}`)).json()) as { items: Record<string, unknown>[] };
    // Its company is told: that keeps the document itself from the people of another one.
    const { tied, note, mail: facts } = mine.items[0] ?? {};
    return JSON.parse(JSON.stringify({ tied, note, facts }).replaceAll(code, "CODE")) as unknown;
  };
  const hidden = await about(String(filed.code), `Hidden ${Date.now()}`);
  expect(hidden).toMatchObject({ tied: null, note: "About CODE" });
  expect(hidden).toEqual(await about("AC-999998", `Absent ${Date.now()}`));

  await signIn(page, "salesDesk", "/find");
  await page.getByLabel("Search documents").fill(secret);
  await expect(page.getByText("No document contains all these words")).toBeVisible();
});

test("a person of one company sees nothing of the other, in no count either", async ({ page, request }) => {
  await signIn(page, "salesDesk", "/records/freightBooking");
  await expect(page.locator("tbody tr").first()).toBeVisible();
  await page
    .getByPlaceholder(/Filter|Number|name/i)
    .first()
    .fill("B-60060");
  await expect(page.getByText(/No .*|Nothing/).first()).toBeVisible();
  const answer = await page.request.get("/api/v1/records/freightBooking/B-60060?company=QS");
  expect(answer.status()).toBe(404);
  const counts = (await (await page.request.get("/api/v1/records/counts")).json()) as { items: { type: string; records: number }[] };
  const mine = counts.items.find((c) => c.type === "freightBooking")?.records ?? 0;
  const total = (await (await api(request).get("/records?type=freightBooking&company=MF&limit=1")).json()).total as number;
  expect(mine).toBe(total);
});
