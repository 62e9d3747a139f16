import { cleanup, fireEvent, screen, waitFor } from "@testing-library/react";
import { createRef } from "react";
import type { ArrivalAnswer } from "#server/arrivals/list-arrivals.ts";
import { fakeApi, renderOnPage } from "../kit/test-page.tsx";
import { FilingSheet, type SheetHandle } from "./filing-sheet.tsx";
import { testArrival as arrival, testFiled as filed, testOrder as order } from "./test-arrival.ts";

const account = { ...order("S-2004"), type: "supplierAccount", title: "Tarrin Marine Fuels", parent: null, fields: {}, amount: null };

let api: ReturnType<typeof fakeApi>;
let sent: Record<string, unknown>[] = [];
const handle = createRef<SheetHandle>();
const heard: string[] = [];
afterEach(() => {
  cleanup();
  api.end();
  sent = [];
  heard.length = 0;
});

/** Draws the sheet; `file` says what the server answers to filing, and PO-6126 comes no sooner than `comes`. */
function draw(
  over: Partial<ArrivalAnswer> = {},
  file: () => unknown = () => filed,
  comes: Promise<void> = Promise.resolve(),
  sought: Promise<void> = Promise.resolve(),
): void {
  api = fakeApi({
    "/records/purchaseOrder/PO-6127": () => order("PO-6127"),
    "/records/purchaseOrder/PO-6126": () => comes.then(() => order("PO-6126")),
    "/records/supplierAccount/S-2004": () => account,
    "/records/lookup": (_b, address) =>
      sought.then(() => ({ items: address.includes("none") ? [] : address.includes("6126") ? [order("PO-6126")] : [order("PO-6127")] })),
    "/arrivals/a1/preview": (body) => {
      const { properties, title } = body as { properties: Record<string, string>; title?: string };
      return {
        title: title ?? `Supplier invoice ${properties["documentNumber"] ?? ""}`.trim(),
        place: { folder: ["Suppliers", "Tarrin", "PO-6127"], fileName: "x.pdf", unassigned: false },
        sameName: properties["documentNumber"] === "again",
      };
    },
    "/arrivals/a1/file": (body) => {
      sent.push(body as Record<string, unknown>);
      return file();
    },
  });
  renderOnPage(
    <FilingSheet arrival={{ ...arrival, ...over }} handle={handle} actions={null} onFiled={(f, a) => heard.push(`${f.code} ${a.id}`)} />,
  );
}
const tied = { company: "MF", type: "purchaseOrder", key: "PO-6127", title: "Bunkering" };
const look = async (text: string): Promise<void> => {
  const field = screen.getByRole("combobox", { name: "Look up a record" });
  fireEvent.focus(field);
  fireEvent.change(field, { target: { value: text } });
  fireEvent.keyDown(field, { key: "Enter" });
  await screen.findByText(text, { selector: ".clip-card .mono" });
};
const button = () => screen.getByRole("button", { name: /File and next/ });
/** Chooses a second record and files before it has come. Answers what lets it come. */
async function fileTooSoon(): Promise<() => void> {
  let come = (): void => {};
  draw({ tied }, undefined, new Promise<void>((resolve) => (come = resolve)));
  await screen.findByText("PO-6127", { selector: ".clip-card .mono" });
  fireEvent.change(screen.getByLabelText("Number"), { target: { value: "77-3108" } });
  const field = screen.getByRole("combobox", { name: "Look up a record" });
  fireEvent.focus(field);
  fireEvent.change(field, { target: { value: "PO-6126" } });
  fireEvent.keyDown(field, { key: "Enter" });
  await waitFor(() => expect(api.asked).toContain("GET /records/purchaseOrder/PO-6126?company=MF"));
  fireEvent.click(button());
  return come;
}

describe("The filing sheet", () => {
  test("asks for the record first, and files nothing without one", async () => {
    draw();
    expect(screen.getByText("Choose a record to see the location.")).toBeTruthy();
    fireEvent.click(button());
    expect(screen.getByText("Choose the record this document belongs to.")).toBeTruthy();
    expect(document.activeElement).toBe(screen.getByRole("combobox", { name: "Look up a record" }));
    expect(sent).toEqual([]);
  });
  test("with record and type chosen it does not ask for them while the place is worked out", async () => {
    draw({ tied });
    await screen.findByText("PO-6127", { selector: ".clip-card .mono" });
    expect(screen.queryByText(/^Choose a/)).toBeNull();
    expect(await screen.findByText("x.pdf")).toBeTruthy();
  });
  test("who files before the record that was just chosen has come files as soon as it is there", async () => {
    const come = await fileTooSoon();
    expect(screen.queryByText("Choose the record this document belongs to.")).toBeNull();
    expect(sent).toEqual([]);
    come();
    await waitFor(() => expect(heard).toEqual(["AC-000001 a1"]));
    expect(sent).toMatchObject([
      { documentType: "supplierInvoice", clips: [{ key: "PO-6127" }, { key: "PO-6126" }], properties: { documentNumber: "77-3108" } },
    ]);
  });
  test("who leaves the document before that files nothing, least of all to the record that stood there before", async () => {
    const come = await fileTooSoon();
    cleanup();
    come();
    // What goes the same way later has come: so has the record, and whatever would be sent because of it.
    for (let i = 0; i < 5; i++) await (await fetch("/api/v1/records/purchaseOrder/PO-6126")).json();
    expect(sent).toEqual([]);
  });
  test.each(["PO-6126", "none"])("who looks up %s and files before the answer: what is found is filed, else nothing", async (text) => {
    let come = (): void => {};
    draw({ tied }, undefined, undefined, new Promise<void>((resolve) => (come = resolve)));
    await screen.findByText("PO-6127", { selector: ".clip-card .mono" });
    const field = screen.getByRole("combobox", { name: "Look up a record" });
    field.focus();
    fireEvent.change(field, { target: { value: text } });
    fireEvent.keyDown(field, { key: "Enter" });
    // The next key is not typed into the field.
    expect(document.activeElement).toBe(document.body);
    fireEvent.click(button());
    expect(sent).toEqual([]);
    come();
    if (text === "none") {
      await waitFor(() => expect(document.activeElement).toBe(field));
      expect(sent).toEqual([]);
    } else {
      await waitFor(() => expect(heard).toEqual(["AC-000001 a1"]));
      expect(sent).toMatchObject([{ clips: [{ key: "PO-6127" }, { key: "PO-6126" }] }]);
    }
  });
  test.each([
    [null, "The page does not name a type. This is the usual one for this record."],
    [{ type: "supplierInvoice", certainty: 0.62 }, "Suggested by the page, certainty 62 %."],
  ])("a type that nobody is sure of (%j) is marked, and filing asks for it first", async (proposedType, words) => {
    draw({ tied, proposedType });
    await screen.findByText("x.pdf");
    expect(screen.getByText("check", { selector: ".chip" })).toBeTruthy();
    fireEvent.click(button());
    expect(await screen.findByText(words)).toBeTruthy();
    expect(sent).toEqual([]);
    fireEvent.click(screen.getByRole("button", { name: "Choose another type" }));
    await waitFor(() => expect(document.activeElement?.id).toBe("sheet-type"));
    fireEvent.click(button());
    fireEvent.click(await screen.findByRole("button", { name: /File as supplier invoice/ }));
    await waitFor(() => expect(sent).toMatchObject([{ documentType: "supplierInvoice" }]));
  });
  test("a chosen record brings its usual type and fills the properties; the exact place stands below", async () => {
    draw({ proposedType: null });
    await look("PO-6127");
    expect(screen.getByLabelText<HTMLSelectElement>("Document type").value).toBe("supplierInvoice");
    expect(screen.getByLabelText<HTMLInputElement>("Total").value).toBe("5835.00");
    expect(await screen.findByText("x.pdf")).toBeTruthy();
    fireEvent.click(button());
    fireEvent.click(await screen.findByRole("button", { name: /File as supplier invoice/ }));
    await waitFor(() => expect(heard).toEqual(["AC-000001 a1"]));
    expect(sent[0]).toMatchObject({
      documentType: "supplierInvoice",
      clips: [{ company: "MF", type: "purchaseOrder", key: "PO-6127" }],
      properties: { total: "5835.00" },
    });
  });
  test("the record said on the way in stands until somebody chooses another", async () => {
    draw({ tied });
    await screen.findByText("PO-6127", { selector: ".clip-card .mono" });
    fireEvent.click(screen.getByLabelText("Remove PO-6127"));
    expect(screen.queryByText("PO-6127", { selector: ".clip-card .mono" })).toBeNull();
  });
  test("what a person typed is not replaced by another record's fields", async () => {
    draw();
    await look("PO-6127");
    fireEvent.change(screen.getByLabelText("Total"), { target: { value: "99.00" } });
    await look("PO-6126");
    expect(screen.getByLabelText<HTMLInputElement>("Total").value).toBe("99.00");
  });
  test("several records: the first decides the place, and another can be made the first", async () => {
    draw();
    await look("PO-6127");
    await look("PO-6126");
    expect(screen.getByText("decides the location")).toBeTruthy();
    fireEvent.click(screen.getByText("store here"));
    await screen.findByText("x.pdf");
    fireEvent.click(button());
    await waitFor(() => expect(sent).toHaveLength(1));
    expect((sent[0]?.["clips"] as { key: string }[] | undefined)?.map((c) => c.key)).toEqual(["PO-6126", "PO-6127"]);
  });
  test("the account above is offered and added with one click", async () => {
    draw();
    await look("PO-6127");
    fireEvent.click(await screen.findByText("add"));
    expect(await screen.findByLabelText("Remove S-2004")).toBeTruthy();
  });
  test("a wrong value is said where it stands and is not sent", async () => {
    draw();
    await look("PO-6127");
    const dated = screen.getByLabelText("Dated");
    fireEvent.change(dated, { target: { value: "31.11.26" } });
    fireEvent.blur(dated);
    expect(await screen.findByText(/Dated must be/)).toBeTruthy();
    fireEvent.click(button());
    expect(sent).toEqual([]);
  });
  test("a document of that name is told before it is filed", async () => {
    draw();
    await look("PO-6127");
    fireEvent.change(screen.getByLabelText("Number"), { target: { value: "again" } });
    expect(await screen.findByText(/That name is taken/)).toBeTruthy();
  });
  test("a title of one's own is sent; without one the pattern's is shown", async () => {
    draw();
    await look("PO-6127");
    fireEvent.change(screen.getByLabelText("Number"), { target: { value: "77-3108" } });
    await waitFor(() => expect(screen.getByLabelText<HTMLInputElement>("Title").value).toBe("Supplier invoice 77-3108"));
    fireEvent.change(screen.getByLabelText("Title"), { target: { value: "My title" } });
    fireEvent.click(button());
    await waitFor(() => expect(sent[0]).toMatchObject({ title: "My title" }));
  });
  test("when somebody was quicker it is said, and nothing is lost from the sheet", async () => {
    draw({}, () =>
      Response.json({ title: "Somebody else was quicker", detail: "Look at it again", status: 409, code: "stale" }, { status: 409 }),
    );
    await look("PO-6127");
    fireEvent.click(button());
    expect(await screen.findByText("Somebody else was quicker")).toBeTruthy();
    expect(screen.getByText("PO-6127", { selector: ".clip-card .mono" })).toBeTruthy();
    expect(heard).toEqual([]);
  });
  test("keys: F files, / looks up, E goes to the properties", async () => {
    draw();
    await look("PO-6127");
    handle.current?.properties();
    expect(document.activeElement?.id).toBe("sheet-type");
    handle.current?.lookUp();
    expect(document.activeElement).toBe(screen.getByRole("combobox", { name: "Look up a record" }));
    handle.current?.file();
    await waitFor(() => expect(sent).toHaveLength(1));
  });
  test.each([
    ["locked", /locked with a password/],
    ["broken", /damaged/],
    ["mislabelled", /does not match the file extension/],
  ] as const)("a %s file says what is wrong and what to do", (code, words) => {
    draw({ problem: { code, detail: "a detail" }, state: "failed" });
    expect(screen.getByText(words)).toBeTruthy();
    expect(screen.getByText(/a detail/)).toBeTruthy();
  });
  test("a mail says that its parts are arrivals of their own", () => {
    draw({ children: ["b", "c"] });
    expect(screen.getByText(/2 parts of this mail/)).toBeTruthy();
  });
});
