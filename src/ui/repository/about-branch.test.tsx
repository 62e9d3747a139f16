import { cleanup, fireEvent, screen, waitFor } from "@testing-library/react";
import { fakeApi, renderOnPage, testMe } from "../kit/test-page.tsx";
import { AboutBranch, type Branch } from "./about-branch.tsx";
import { folderHref } from "./folder-href.ts";
import { ShelfDialog, TOP } from "./shelf-dialog.tsx";

const branch = (over: Partial<Branch> = {}): Branch => ({
  id: "1",
  name: "PO-6127",
  kind: "record",
  connection: "companyFolders",
  path: "Suppliers/Tarrin S-2004/Orders/PO-6127",
  folders: 1,
  documents: 3,
  state: "stored",
  record: { company: "MF", type: "purchaseOrder", key: "PO-6127", title: "Bunkering" },
  code: null,
  folderId: 7,
  location: "/srv/papers/Suppliers/Tarrin S-2004/Orders/PO-6127",
  ...over,
});
const shelf = branch({ kind: "shelf", name: "Minutes", path: "Shelves/Minutes", record: null, location: "/srv/papers/Shelves/Minutes" });
let api: ReturnType<typeof fakeApi>;
let sent: unknown[] = [];
let copied = "";
beforeEach(() => {
  const keep = (body: unknown) => {
    sent.push(body);
    return {};
  };
  api = fakeApi({ "/repository/shelves/7": keep, "/repository/shelves": keep });
  Object.assign(navigator, { clipboard: { writeText: (text: string) => Promise.resolve(void (copied = text)) } });
});
afterEach(() => {
  cleanup();
  api.end();
  sent = [];
  copied = "";
});

describe("What is known of a folder", () => {
  test("its record, its state, and its exact place, which is copied as it is", async () => {
    renderOnPage(<AboutBranch branch={branch()} onShelf={() => {}} onChanged={() => {}} />);
    expect(screen.getByRole("link", { name: "PO-6127 Bunkering" }).getAttribute("href")).toContain("/records/purchaseOrder/PO-6127");
    expect(screen.getByText("stored")).toBeTruthy();
    fireEvent.click(screen.getByRole("button", { name: /Copy location/ }));
    expect(await screen.findByText("Location copied")).toBeTruthy();
    expect(copied).toBe("/srv/papers/Suppliers/Tarrin S-2004/Orders/PO-6127");
    expect(screen.getByRole("link", { name: "Open folder" }).getAttribute("href")).toBe(
      "file:///srv/papers/Suppliers/Tarrin%20S-2004/Orders/PO-6127",
    );
  });
  test("of a document it leads there, and opens the folder that it stands in", () => {
    renderOnPage(
      <AboutBranch
        branch={branch({ kind: "document", code: "AC-000001", record: null, location: "https://files.example/dav/a/b.pdf" })}
        onShelf={() => {}}
        onChanged={() => {}}
      />,
    );
    expect(screen.getByRole("link", { name: "AC-000001" }).getAttribute("href")).toBe("/documents/AC-000001");
    expect(screen.getByRole("link", { name: "Open folder" }).getAttribute("href")).toBe("https://files.example/dav/a");
  });
  test("a shelf is renamed or moved by those who plan, and by nobody else", async () => {
    let changed = 0;
    renderOnPage(<AboutBranch branch={shelf} onShelf={() => {}} onChanged={() => changed++} />);
    fireEvent.click(screen.getByRole("button", { name: "Rename or move" }));
    fireEvent.change(screen.getByLabelText("New location of the shelf"), { target: { value: "Shelves/Board" } });
    fireEvent.click(screen.getByRole("button", { name: "Move" }));
    expect(await screen.findByText("Shelf moved")).toBeTruthy();
    expect(sent).toEqual([{ path: "Shelves/Board" }]);
    expect(changed).toBe(1);
    cleanup();
    renderOnPage(<AboutBranch branch={shelf} onShelf={() => {}} onChanged={() => {}} />, {
      ...testMe,
      may: { ...testMe.may, plan: false },
    });
    expect(screen.queryByRole("button", { name: "Rename or move" })).toBeNull();
  });
});

describe("A new shelf", () => {
  const connections = [
    { key: "companyFolders", label: "Company folders" },
    { key: "quay", label: "Quay archive" },
  ];
  test("that is in no other may stand on any connection", async () => {
    let made = 0;
    renderOnPage(
      <ShelfDialog at={{ connection: "companyFolders", path: TOP }} connections={connections} onHide={() => {}} onMade={() => made++} />,
    );
    fireEvent.change(screen.getByLabelText("Name"), { target: { value: "Minutes" } });
    fireEvent.change(screen.getByLabelText("Connection"), { target: { value: "quay" } });
    fireEvent.click(screen.getByRole("button", { name: "Create shelf" }));
    await waitFor(() => expect(made).toBe(1));
    expect(sent).toEqual([{ connection: "quay", path: "Shelves/Minutes", company: "MF", isConfidential: false }]);
  });
  test("stands where it was asked for, belongs to a company, and may be confidential", async () => {
    let made = 0;
    renderOnPage(
      <ShelfDialog
        at={{ connection: "companyFolders", path: "Shelves/Minutes" }}
        connections={connections}
        onHide={() => {}}
        onMade={() => made++}
      />,
    );
    // Within another it stands where that one does.
    expect(screen.queryByLabelText("Connection")).toBeNull();
    const button = screen.getByRole<HTMLButtonElement>("button", { name: "Create shelf" });
    expect(button.disabled).toBe(true);
    fireEvent.change(screen.getByLabelText("Name"), { target: { value: "2026" } });
    fireEvent.click(screen.getByLabelText(/Confidential/));
    fireEvent.click(button);
    await waitFor(() => expect(made).toBe(1));
    expect(sent).toEqual([{ connection: "companyFolders", path: "Shelves/Minutes/2026", company: "MF", isConfidential: true }]);
  });
});

test.each([
  ["Suppliers/Tarrin & Sons", false, "Suppliers/Tarrin & Sons"],
  ["Suppliers/Tarrin/Invoice.pdf", true, "Suppliers/Tarrin"],
  ["Invoice.pdf", true, ""],
])("the page of the folder of %s (a file: %s) looks for %s", (path, isFile, q) => {
  const href = new URL(folderHref(path, isFile), "http://x");
  expect(href.pathname).toBe("/repository");
  expect(href.searchParams.get("q") ?? "").toBe(q);
});
