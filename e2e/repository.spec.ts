import { mkdir, readdir, readFile, realpath, rename, rm, writeFile } from "node:fs/promises";
import path from "node:path";
import pg from "pg";
import { pdfFile } from "./support/papers.ts";
import { api, dataFolder, expect, readArrival, signIn, test } from "./support/world.ts";

const at = (relative: string): string => path.join(dataFolder(), "repository", relative);
const standIns = async () =>
  JSON.parse(await readFile(path.join(dataFolder(), "standins.json"), "utf8")) as Record<
    "webdav" | "bucket",
    { address: string; user: string; password: string; bucket?: string }
  >;

test("a rule is changed, every move seen first, run, stopped, gone on with, and undone; nothing is there twice", async ({ page, request }, {
  retry,
}) => {
  test.setTimeout(120_000);
  // Another than a try before this one may have left.
  const folder = retry === 0 ? "Freight documents" : `Freight documents ${retry + 1}`;
  await signIn(page, "administrator", "/filing-plan?type=freightBooking");
  const root = page.getByLabel("Root folder", { exact: true });
  const before = await root.inputValue();
  await root.fill(folder);
  await expect(page.getByText(/This change moves \d+ documents in \d+ folders/)).toBeVisible();
  await page.getByRole("button", { name: "Show all moves" }).click();
  await expect(page).toHaveURL(/filing-plan\/moves\//);
  await expect(page.getByText("not started")).toBeVisible();
  await page.getByLabel("Search old or new location").fill("B-20418");
  const row = page.getByRole("row").filter({ hasText: "B-20418" });
  await expect(row).toContainText(before);
  await expect(row).toContainText(folder);
  await page.getByLabel("Search old or new location").fill("");
  const csv = page.waitForEvent("download");
  await page.getByRole("button", { name: "CSV" }).click();
  expect(await readFile((await (await csv).path()) ?? "", "utf8")).toContain(`${folder}/2026/B-20418`);
  await page.getByRole("button", { name: /Save rule and start moving/ }).click();
  // It may be over before anybody can stop it: both ways end the same.
  await page
    .getByRole("button", { name: "Stop" })
    .click({ timeout: 1500 })
    .catch(() => {});
  await expect(page.getByRole("button", { name: /Go on|Undo all/ }).first()).toBeVisible();
  const goOn = page.getByRole("button", { name: "Resume" });
  if (await goOn.isVisible()) await goOn.click();
  await expect(page.locator(".chip").filter({ hasText: /^moved$/ })).toBeVisible({ timeout: 30_000 });
  const record = (await (await api(request).get("/records/freightBooking/B-20418?company=MF")).json()) as { folder: { path: string } };
  expect(record.folder.path).toContain(folder);
  expect((await readdir(at(record.folder.path))).length).toBeGreaterThan(0);
  await page.getByRole("button", { name: "Undo all" }).click();
  await expect(page.locator(".chip").filter({ hasText: /^undone$/ })).toBeVisible({ timeout: 30_000 });
  const after = (await (await api(request).get("/records/freightBooking/B-20418?company=MF")).json()) as { folder: { path: string } };
  expect(after.folder.path).toContain(`/${before}/`);
  expect((await readdir(at(after.folder.path))).length).toBeGreaterThan(0);
  await page.goto("/filing-plan/moves");
  await expect(page.getByRole("row").filter({ hasText: "Freight bookings" }).first()).toContainText("undone");
});

test("a record type gets variants, sub-folders and file names of its own, with the real folders beside it", async ({ page }) => {
  await signIn(page, "administrator", "/filing-plan?type=refit");
  const preview = page.getByRole("region", { name: "Preview" });
  await expect(preview).toContainText("Fleet");
  await page.getByRole("button", { name: "Add variant for some records" }).click();
  await page.getByLabel("Field 1 of variant 1").selectOption("key");
  await page.getByLabel("Comparison 1 of variant 1").selectOption("isNotEmpty");
  await page.getByLabel("Root folder of variant 1").fill("Yard work");
  await expect(preview).toContainText("Yard work");
  await page.getByLabel("Other file names").selectOption("drawing");
  await expect(page.getByRole("group", { name: "Parts of the name of Drawings" })).toBeVisible();
  await page.getByLabel("Sub-folders").selectOption("documentType");
  // The same rule as text: fields are offered while one types, and a mistake is said where it is.
  await page.getByRole("button", { name: "text" }).first().click();
  const text = page.locator("input#rule-name");
  await text.fill("");
  await text.pressSequentially("{ti");
  await page.getByRole("option", { name: /^title/ }).click();
  await expect(text).toHaveValue("{title}");
  await text.pressSequentially(" {key:up");
  await page.getByRole("option", { name: /^upper/ }).click();
  await expect(text).toHaveValue("{title} {key:upper}");
  await text.fill("{title");
  await expect(preview).toContainText("The rule is incomplete");
  await page.getByRole("button", { name: "Reset" }).click();
  await expect(page.getByLabel("Root folder of variant 1")).toHaveCount(0);
});

test("an account that was renamed is moved from its page after one question, and everything beneath it goes along", async ({
  page,
  request,
}) => {
  const account = (await (await api(request).get("/records/customerAccount/C-1042?company=MF")).json()) as {
    title: string;
    fields: Record<string, string>;
    folder: { path: string };
  };
  const put = (name: string) =>
    api(request).put("/records/customerAccount/C-1042?company=MF", { title: name, fields: { ...account.fields, name } });
  await put("Orrin Shellfish and Sons");
  await signIn(page, "administrator", "/records/customerAccount/C-1042?company=MF");
  await page.getByRole("button", { name: /Move folder with/ }).click();
  const question = page.getByRole("dialog");
  await expect(question).toContainText("Orrin Shellfish and Sons C-1042");
  await question.getByRole("button", { name: "Move", exact: true }).click();
  await expect(page.getByText("Folder moved")).toBeVisible();
  const booking = (await (await api(request).get("/records/freightBooking/B-20418?company=MF")).json()) as { folder: { path: string } };
  expect(booking.folder.path).toContain("Orrin Shellfish and Sons C-1042");
  expect((await readdir(at(booking.folder.path))).length).toBeGreaterThan(0);
  await put(account.title);
  const back = (await (await api(request).post("/records/customerAccount/C-1042/move-folder?company=MF")).json()) as {
    move: { path: string };
  };
  expect(back.move.path).toBe(account.folder.path);
});

test("a document's title is changed, the move is shown, confirmed and followed", async ({ page, request }) => {
  const papers = (await (await api(request).get("/records/freightBooking/B-20418/documents?company=MF")).json()) as {
    items: { code: string; title: string }[];
  };
  const paper = papers.items[0];
  await signIn(page, "clerk", `/documents/${paper?.code}`);
  await page.getByRole("button", { name: "Change" }).click();
  const title = page.getByLabel("Title", { exact: true });
  await title.fill(`${paper?.title} corrected`);
  await page.getByRole("button", { name: "Save", exact: true }).click();
  await expect(page.getByRole("dialog", { name: "It moves in the repository" })).toBeVisible();
  await page.getByRole("button", { name: "Move", exact: true }).click();
  await expect(page.getByText("Stored in")).toBeVisible();
  const moved = (await (await api(request).get(`/documents/${paper?.code}`)).json()) as { location: { path: string; state: string } };
  expect(moved.location.path).toContain("corrected");
  expect(moved.location.state).toBe("stored");
  const answer = (await (await api(request).patch(`/documents/${paper?.code}`, { title: paper?.title })).json()) as {
    move: { to: string };
  };
  expect(answer.move.to).not.toContain("corrected");
});

test("a file that somebody drops into a record's folder stands on the record; one that is removed is adrift and is put back", async ({
  page,
  request,
}) => {
  test.setTimeout(120_000);
  const orders = (await (await api(request).get("/repository/locations?type=purchaseOrder&company=MF&limit=1")).json()) as {
    items: { path: string; record: { key: string } }[];
  };
  const folder = orders.items[0]?.path ?? "";
  const key = orders.items[0]?.record.key ?? "";
  const paper = await pdfFile("Delivery note from the quay.pdf", ["Delivered to the quay"]);
  await writeFile(path.join(at(folder), paper.name), paper.buffer);
  await signIn(page, "clerk", `/records/purchaseOrder/${key}?company=MF`);
  await expect(async () => {
    await page.reload();
    await expect(page.getByText("Delivery note from the quay").first()).toBeVisible({ timeout: 1000 });
  }).toPass({ timeout: 60_000 });
  await rm(path.join(at(folder), paper.name));
  await page.context().clearCookies();
  await signIn(page, "administrator", "/repository?view=outOfSync");
  const row = page.getByRole("row").filter({ hasText: "Delivery note from the quay" });
  await expect(row).toBeVisible({ timeout: 60_000 });
  await row.getByRole("button", { name: "Restore our file" }).click();
  await expect
    .poll(
      () =>
        readFile(path.join(at(folder), paper.name)).then(
          (b) => b.length,
          () => 0,
        ),
      { timeout: 30_000 },
    )
    .toBe(paper.buffer.length);
});

test("the tree opens level by level, and every folder of every record stands in one table", async ({ page }) => {
  await signIn(page, "administrator", "/repository");
  const tree = page.getByRole("tree");
  await tree.getByText("Fleet", { exact: true }).click();
  await expect(tree.getByText("MV Sandling")).toBeVisible();
  await tree.getByText("MV Sandling").click();
  await expect(page.getByRole("region", { name: "Details", exact: true })).toContainText("MV Sandling");
  await expect(page.getByRole("button", { name: "Copy location" })).toBeVisible();
  await page.getByRole("button", { name: "Shelf" }).first().click();
  await page.getByLabel("Name", { exact: true }).fill("Board minutes");
  await page.getByRole("button", { name: "Create shelf" }).click();
  await expect(page.getByText("Shelf Board minutes created")).toBeVisible();
  expect(await readdir(at("Shelves"))).toContain("Board minutes");
  // What is found by its name is shown where it stands, with its documents.
  await page.getByLabel("Find a folder").fill("B-20418");
  await page.getByRole("region", { name: "Folders found" }).getByRole("button").first().click();
  await page.getByRole("button", { name: "Show in tree" }).click();
  await expect(tree.getByRole("treeitem", { selected: true })).toContainText("B-20418");
  await expect(tree.getByText(/Booking confirmation B-20418/)).toBeVisible();
  await page.goto("/repository?view=locations&q=C-1042");
  await expect(page.getByRole("region", { name: "Locations" })).toContainText("C-1042");
  await page.getByRole("button", { name: "Documents" }).click();
  await expect(page).toHaveURL(/sort=documents/);
});

test("a WebDAV server is connected step by step, its faults are said, folders are made with a failure in it, and tried again", async ({
  page,
  request,
}) => {
  test.setTimeout(150_000);
  const { webdav } = await standIns();
  await signIn(page, "administrator", "/set-up");
  await page.getByRole("link", { name: "Add connection" }).click();
  await page.getByRole("radio", { name: /WebDAV/ }).click();
  await page.getByRole("button", { name: "Next" }).click();
  await page.getByLabel("Display name").fill("Quay archive");
  await page.getByRole("textbox", { name: "Address" }).fill(webdav.address);
  await page.getByLabel("Folder on the server").fill("Merrowick");
  await page.getByLabel("Name", { exact: true }).fill(webdav.user);
  await page.getByLabel("Password").fill("wrong");
  await page.getByRole("button", { name: "Save and check" }).click();
  await expect(page.getByText("User name or password is wrong")).toBeVisible({ timeout: 30_000 });
  await expect(page.getByRole("button", { name: "Next" })).toBeDisabled();
  await page.getByRole("button", { name: "Back" }).click();
  await page.getByLabel("Password").fill(webdav.password);
  await page.getByRole("button", { name: "Save and check" }).click();
  await expect(page.getByLabel("fine")).toHaveCount(7, { timeout: 30_000 });
  // Left and taken up again where it was.
  await page.getByRole("button", { name: "Next" }).click();
  await page.getByRole("checkbox", { name: /^Bank accounts/ }).check();
  await page.getByRole("button", { name: "Next" }).click();
  await page.getByRole("radio", { name: /Flat by type/ }).click();
  await page.getByRole("button", { name: "Next" }).click();
  await page.getByRole("button", { name: "Finish later" }).click();
  await expect(page.getByText("set-up not finished")).toBeVisible();
  await page.getByRole("link", { name: "Quay archive" }).click();
  await expect(page.getByRole("heading", { name: "Folders of real records" })).toBeVisible();
  await fetch(`${webdav.address}/.faults`, { method: "PUT", body: JSON.stringify({ full: true }) });
  await page.getByRole("button", { name: "Save rules and create folders" }).click();
  await expect(page.getByRole("button", { name: "Retry" })).toBeVisible({ timeout: 60_000 });
  await expect(page.getByText("The repository is full").first()).toBeVisible();
  await fetch(`${webdav.address}/.faults`, { method: "PUT", body: "{}" });
  await page.getByRole("button", { name: "Retry" }).click();
  await expect(page.getByRole("heading", { name: /\d+ folders? created$/ })).toBeVisible({ timeout: 60_000 });
  const connections = (await (await api(request).get("/connections")).json()) as { items: { key: string; hasSecret: boolean }[] };
  expect(connections.items.find((c) => c.key !== "companyFolders")?.hasSecret).toBe(true);
  expect(JSON.stringify(connections)).not.toContain(`"${webdav.password}"`);
});

test("while the repository is unplugged filing goes on, says plainly what waits, and ends by itself", async ({ page, request }) => {
  test.setTimeout(150_000);
  const { buffer, ...file } = await pdfFile("unplugged.pdf", ["Filed while nothing was plugged in"]);
  const taken = (await (await api(request).upload({ ...file, buffer }, { queue: "payables" })).json()) as { id: string };
  await mkdir(`${at("")}`, { recursive: true });
  const root = at("").replace(/\/$/, "");
  await rename(root, `${root}-away`);
  await mkdir(root);
  let code = "";
  try {
    const filed = await api(request).post(`/arrivals/${taken.id}/file`, {
      documentType: "supplierInvoice",
      title: "Unplugged",
      clips: [{ company: "MF", type: "purchaseOrder", key: "PO-6127" }],
    });
    expect(filed.status()).toBe(200);
    code = ((await filed.json()) as { code: string }).code;
    await signIn(page, "clerk", `/documents/${code}`);
    await expect(page.getByText("The repository cannot be reached.")).toBeVisible({ timeout: 30_000 });
    await expect(page.getByText("The document is safe.")).toBeVisible();
    expect(await readdir(root)).toEqual([]);
  } finally {
    await rm(root, { recursive: true, force: true });
    await rename(`${root}-away`, root);
  }
  await expect
    .poll(async () => ((await (await api(request).get(`/documents/${code}`)).json()) as { location: { state: string } }).location.state, {
      timeout: 90_000,
    })
    .toBe("stored");
});

test("the filing plan is downloaded as a file and brought in again after seeing what differs", async ({ page }) => {
  await signIn(page, "administrator", "/filing-plan");
  await page.getByRole("button", { name: "More" }).click();
  await page.getByRole("button", { name: "Filing plan as a file" }).click();
  const download = page.waitForEvent("download");
  await page.getByRole("link", { name: "Download YAML" }).click();
  const text = await readFile((await (await download).path()) ?? "", "utf8");
  expect(text).toContain("freightBooking:");
  const bring = (content: string) =>
    page.getByLabel("Import").setInputFiles({ name: "plan.yaml", mimeType: "application/yaml", buffer: Buffer.from(content) });
  await bring(text);
  await expect(page.getByText("The file equals the current plan")).toBeVisible();
  await bring(text.replace("rootFolder: Fleet", "rootFolder: Ships"));
  await expect(page.getByRole("dialog")).toContainText("Ships");
  await expect(page.getByRole("button", { name: "Save rules" })).toBeEnabled();
  await bring("rules: {vessel: 5}");
  await expect(page.getByRole("dialog")).toContainText("values are invalid");
});

test("a record type without a rule gets one: until then nothing is filed there, from then on it is", async ({ page, request }) => {
  // As a new record type comes: with records, and no rule for its folders.
  const { AMBER_DATABASE_URL: url } = JSON.parse(await readFile(path.join(dataFolder(), "run", "environment.json"), "utf8")) as {
    AMBER_DATABASE_URL: string;
  };
  const client = new pg.Client({ connectionString: url });
  await client.connect();
  await client.query("delete from folder_rule where record_type = 'contact'");
  await client.end();
  await api(request).put("/records/contact/CT-9001?company=MF", { title: "Ottoline Marsh", fields: { name: "Ottoline Marsh" } });
  const upload = await api(request).upload(await pdfFile("ottoline.pdf", ["A letter from Ottoline Marsh"]));
  const arrival = ((await upload.json()) as { id: string }).id;
  await readArrival(request, arrival);
  const wish = { documentType: "letter", title: "Letter of Ottoline", clips: [{ company: "MF", type: "contact", key: "CT-9001" }] };
  const refused = await api(request).post(`/arrivals/${arrival}/file`, wish);
  expect(refused.status()).toBe(409);
  expect(((await refused.json()) as { code: string }).code).toBe("no-folder-rule");

  await signIn(page, "administrator", "/filing-plan");
  const line = page.getByRole("link", { name: /^Contacts/ }).or(page.getByRole("button", { name: /^Contacts/ }));
  await expect(line.first()).toContainText("no rule");
  await line.first().click();
  const preview = page.getByRole("region", { name: "Preview" });
  await page.getByLabel("Root folder", { exact: true }).fill("People we write to");
  await expect(preview).toContainText("People we write to");
  await page.getByRole("button", { name: /^Save/ }).last().click();
  await expect(page.getByText(/saved/i).first()).toBeVisible();
  await expect(line.first()).not.toContainText("no rule");

  expect((await api(request).post(`/arrivals/${arrival}/file`, wish)).status()).toBe(200);
  await expect.poll(() => readdir(at("People we write to")).catch(() => [])).toEqual([expect.stringContaining("Ottoline Marsh")]);
});

test("a document of no record is filed on a shelf from the sheet, and found there in the tree", async ({ page, request }) => {
  const name = `Minutes ${Date.now() % 10_000}`;
  const made = await api(request).post("/repository/shelves", { connection: "companyFolders", path: `Shelves/${name}`, company: "MF" });
  expect(made.ok()).toBe(true);
  const upload = await api(request).upload(await pdfFile("board.pdf", ["Minutes of the board of Merrowick Ferries"]));
  const arrival = ((await upload.json()) as { id: string }).id;
  await readArrival(request, arrival);
  await signIn(page, "administrator", `/arrivals?at=${arrival}`);
  await page.getByLabel("Or put it on a shelf").selectOption({ label: `Shelves › ${name}` });
  await page.getByLabel("Document type").selectOption("letter");
  await expect(page.locator(".will-be")).toContainText(name);
  await page.getByRole("button", { name: /^File/ }).click();
  await expect.poll(async () => (await readdir(at(`Shelves/${name}`)).catch(() => [])).length).toBe(1);
  await page.goto("/repository");
  await page.getByLabel("Find a folder").fill(name);
  await expect(page.getByRole("region", { name: "Folders found" })).toContainText(name);
});

test("a field of a name is dragged to another place with the pointer", async ({ page }) => {
  await signIn(page, "administrator", "/filing-plan?type=refit");
  const group = page.getByRole("group", { name: "Parts of the folder name" }).or(page.locator("#rule-name"));
  const tokens = group.first().locator(".token");
  await expect(tokens).toHaveCount(2);
  const before = await tokens.allInnerTexts();
  await tokens.nth(1).dragTo(tokens.nth(0));
  await expect.poll(async () => (await tokens.allInnerTexts()).join()).toBe([...before].reverse().join());
  await page.getByRole("button", { name: "Reset" }).click();
});

test("further folders of a document hold a link to its one file, or a small file that says where it is", async ({ page, request }) => {
  await signIn(page, "administrator", "/set-up");
  const choice = page.getByLabel("Additional folders on Company folders");
  await choice.selectOption("link");
  await expect(choice).toHaveValue("link");
  const upload = await api(request).upload(await pdfFile("both.pdf", ["A letter about two things at once"]));
  const arrival = ((await upload.json()) as { id: string }).id;
  await readArrival(request, arrival);
  const title = `About two things ${Date.now() % 10_000}`;
  const clips = [
    { company: "MF", type: "freightBooking", key: "B-20418" },
    { company: "MF", type: "supplierAccount", key: "S-2004" },
  ];
  const filed = (await (await api(request).post(`/arrivals/${arrival}/file`, { documentType: "letter", title, clips })).json()) as {
    code: string;
  };
  type Placed = { location: { path: string; state: string } };
  const placed = async () => ((await (await api(request).get(`/documents/${filed.code}`)).json()) as Placed).location;
  await expect.poll(async () => (await placed()).state).toBe("stored");
  const supplier = (await (await api(request).get("/records/supplierAccount/S-2004?company=MF")).json()) as { folder: { path: string } };
  const further = at(`${supplier.folder.path}/${title}.pdf`);
  await expect.poll(() => realpath(further).catch(() => null)).toBe(await realpath(at((await placed()).path)));
  await choice.selectOption("pointer");
  await expect
    .poll(async () => (await readdir(at(supplier.folder.path))).filter((n) => n.startsWith(title)).join(), { timeout: 20_000 })
    .not.toBe(`${title}.pdf`);
  await choice.selectOption("none");
  await expect
    .poll(async () => (await readdir(at(supplier.folder.path))).filter((n) => n.startsWith(title)), { timeout: 20_000 })
    .toEqual([]);
});
