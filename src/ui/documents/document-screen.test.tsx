import { cleanup, fireEvent, screen, waitFor } from "@testing-library/react";
import type { DocumentAnswer } from "#server/documents/load-document.ts";
import { fakeApi, renderOnPage, testMe, went } from "../kit/test-page.tsx";
import { DocumentScreen } from "./document-screen.tsx";

const document: DocumentAnswer = {
  id: 1,
  code: "AC-000001",
  title: "Supplier invoice 77-3108",
  company: "MF",
  titleSaid: false,
  documentType: "supplierInvoice",
  properties: { documentNumber: "77-3108", documentDate: "2026-11-18", total: "5835.00", currency: "GBP" },
  lifecycle: "released",
  documentDate: "2026-11-18",
  filedAt: "2026-11-20T09:00:00Z",
  filedBy: "Tam Corrigall",
  kind: "text",
  mediaType: "text/plain",
  pages: 1,
  versions: [{ version: 1, fileName: "a.txt", sha256: "a".repeat(64), bytes: 1200, madeAt: "2026-11-20T09:00:00Z" }],
  clips: [
    { company: "MF", type: "purchaseOrder", key: "PO-6127", title: "Bunkering", section: null, reach: [], note: null },
    { company: "MF", type: "supplierAccount", key: "S-2004", title: "Tarrin Marine Fuels", section: null, reach: [], note: null },
  ],
  typeSaid: true,
  shelves: [],
  location: {
    connection: "companyFolders",
    path: "Suppliers/Tarrin/Supplier invoice 77-3108.txt",
    state: "stored",
    sha256: "a".repeat(64),
    verifiedAt: "2026-11-20T09:00:01Z",
    address: "/srv/repository/Suppliers/Tarrin/Supplier invoice 77-3108.txt",
    why: null,
  },
};
let api: ReturnType<typeof fakeApi>;
afterEach(() => {
  cleanup();
  api.end();
  went.length = 0;
});
function draw(over: Partial<DocumentAnswer> = {}, me = testMe): void {
  let now = { ...document, ...over };
  api = fakeApi({
    "/documents/AC-000001": () => now,
    "/documents/AC-000001/view": () => ({
      kind: "text",
      mediaType: "text/plain",
      state: "read",
      problem: null,
      pictures: false,
      pages: [],
      outline: null,
      text: "words",
    }),
    "/documents/AC-000001/timeline": () => ({
      items: [
        { id: 1, at: "2026-11-20T09:00:00Z", who: "Tam Corrigall", words: "filed it", verb: "filed", document: "AC-000001", record: null },
      ],
    }),
    "/documents/AC-000001/unfile": () => ({ arrivalId: "a1" }),
    "/documents/AC-000001/place-again": () => {
      now = { ...document };
      return { state: "waiting" };
    },
  });
  renderOnPage(<DocumentScreen code="AC-000001" />, me, "/documents/AC-000001");
}

describe("A document's page", () => {
  test("shows its records, properties as people write them, and where it stands with proof", async () => {
    draw();
    expect(await screen.findByText("PO-6127")).toBeTruthy();
    expect(screen.getByText("5,835.00 GBP")).toBeTruthy();
    expect(screen.getByText("18 Nov 2026")).toBeTruthy();
    expect(screen.getByText("stored")).toBeTruthy();
    expect(screen.getByText(/Verified/).textContent).toContain("aaaaaaaaaaaa");
    expect(await screen.findByText("Tam Corrigall")).toBeTruthy();
    expect(screen.queryByText("Versions")).toBeNull();
  });
  test("a document that could not be placed says why and is tried again", async () => {
    draw({
      location: { ...(document.location as NonNullable<DocumentAnswer["location"]>), state: "failed", why: "ENOSPC", verifiedAt: null },
    });
    expect(await screen.findByText(/could not be stored\. \(ENOSPC\)\. The document is safe\./)).toBeTruthy();
    fireEvent.click(screen.getByText("Try again"));
    await waitFor(() => expect(screen.getByText("stored")).toBeTruthy());
    expect(api.asked).toContain("POST /documents/AC-000001/place-again");
  });
  test("a document whose own copy is damaged is not said to be safe", async () => {
    draw({
      location: {
        ...(document.location as NonNullable<DocumentAnswer["location"]>),
        state: "failed",
        why: "bytes-damaged",
        verifiedAt: null,
      },
    });
    const problem = (await screen.findByText(/could not be stored/)).textContent;
    expect(problem).toContain("The stored copy of this document is damaged. Restore its file from the backup, then try again.");
    expect(problem).not.toContain("safe");
  });
  test("one that is being placed says so", async () => {
    draw({ location: { ...(document.location as NonNullable<DocumentAnswer["location"]>), state: "waiting", verifiedAt: null } });
    expect(await screen.findByText("waiting")).toBeTruthy();
  });
  test("taking it back asks first, says what it touches, and leads to Arrivals", async () => {
    draw();
    fireEvent.click(await screen.findByText("Take back to Arrivals"));
    expect(screen.getByText(/It is removed from 2 records/)).toBeTruthy();
    fireEvent.click(screen.getByText("Cancel"));
    expect(api.asked.some((a) => a.includes("unfile"))).toBe(false);
    fireEvent.click(screen.getByText("Take back to Arrivals"));
    fireEvent.click(screen.getByText("Take back"));
    await waitFor(() => expect(went).toEqual(["/arrivals?at=a1"]));
  });
  test("who may not file sees it and cannot take it back", async () => {
    draw({}, { ...testMe, may: { ...testMe.may, file: false } });
    expect(await screen.findByText("PO-6127")).toBeTruthy();
    expect(screen.queryByText("Take back to Arrivals")).toBeNull();
  });
  test("several versions are listed, the newest first, each to download", async () => {
    draw({
      versions: [
        ...document.versions,
        { version: 2, fileName: "b.txt", sha256: "b".repeat(64), bytes: 10, madeAt: "2026-11-21T09:00:00Z" },
      ],
    });
    const links = await screen.findAllByText("Download", { selector: "a[href*=version]" });
    expect(links.map((a) => a.getAttribute("href"))).toEqual([
      "/api/v1/documents/AC-000001/content?version=2&download=1",
      "/api/v1/documents/AC-000001/content?version=1&download=1",
    ]);
  });
  test("one that is not there says so", async () => {
    draw();
    cleanup();
    api.end();
    api = fakeApi({});
    renderOnPage(<DocumentScreen code="AC-000009" />);
    expect(await screen.findByText("There is nothing here")).toBeTruthy();
  });
});
