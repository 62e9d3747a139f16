import { act, cleanup, fireEvent, screen, waitFor } from "@testing-library/react";
import { useRef, useState } from "react";
import type { ArrivalAnswer } from "#server/arrivals/list-arrivals.ts";
import { fakeApi, renderOnPage, went } from "../kit/test-page.tsx";
import { useKeys } from "../kit/use-keys.ts";
import { useNotices } from "../kit/notices.tsx";
import type { SheetHandle } from "./filing-sheet.tsx";
import { testArrival, testFiled, testOrder } from "./test-arrival.ts";
import { FilingSheet } from "./filing-sheet.tsx";
import { useFiling } from "./use-filing.ts";

const tied = { company: "MF", type: "purchaseOrder", key: "PO-6127", title: "Bunkering" };
const papers: readonly ArrivalAnswer[] = ["a1", "a2", "a3"].map((id) => ({ ...testArrival, id, fileName: `${id}.pdf`, tied }));

/** The table of arrivals, with nothing on it but names and the sheet. */
function Table() {
  const [gone, setGone] = useState<readonly string[]>([]);
  const [at, setAt] = useState<string | null>("a1");
  const sheet = useRef<SheetHandle>(null);
  const notices = useNotices();
  const items = papers.filter((a) => !gone.includes(a.id));
  const filing = useFiling({
    goOn: (from) => setAt(items[items.findIndex((a) => a.id === from.id) + 1]?.id ?? null),
    drop: (ids) => setGone((now) => [...now, ...ids]),
    open: setAt,
    refresh: () => {},
  });
  const shown = items.filter((a) => !filing.away.has(a.id));
  const current = shown.find((a) => a.id === at);
  useKeys({ f: () => sheet.current?.file(), z: notices.undoLast, 3: () => setAt("a3") });
  return (
    <>
      <ul aria-label="Waiting documents">
        {shown.map((a) => (
          <li key={a.id}>{a.fileName}</li>
        ))}
      </ul>
      <h1>{current?.fileName ?? "no document"}</h1>
      {current ? <FilingSheet key={current.id} arrival={current} handle={sheet} actions={null} {...filing} /> : null}
    </>
  );
}

let api: ReturnType<typeof fakeApi>;
/** What lets the server answer the filing of a document. */
const answers = new Map<string, (answer: unknown) => void>();
let isWide = false;
afterEach(() => {
  cleanup();
  api.end();
  answers.clear();
  isWide = false;
});
function draw(reach: "known" | "unknown" = "known") {
  api = fakeApi({
    "/records/purchaseOrder/PO-6127": () => testOrder("PO-6127"),
    "/clips/reach": () =>
      reach === "unknown" ? new Promise(() => {}) : { items: [{ ...tied, reach: [], along: [], total: 0, words: "", named: [], isWide }] },
    ...Object.fromEntries(
      papers.flatMap((a) => [
        [
          `/arrivals/${a.id}/preview`,
          () => ({ title: "Supplier invoice", place: { folder: [], fileName: "x.pdf", unassigned: false }, sameName: false }),
        ],
        [`/arrivals/${a.id}/file`, () => new Promise((answer) => answers.set(a.id, answer))],
      ]),
    ),
    "/documents/AC-000001/unfile": () => ({ arrivalId: "a1" }),
  });
  return renderOnPage(<Table />);
}
/** Waits until the sheet knows what its clip reaches, and the place. */
const isReady = async (): Promise<void> => {
  await screen.findByText("not shown on other records");
  await screen.findByText("x.pdf");
};
const press = (key: string) => fireEvent.keyDown(document.body, { key });
const open = (name: string) => waitFor(() => expect(screen.getByRole("heading", { level: 1 }).textContent).toBe(name));
const answer = (id: string, body: unknown) => act(async () => answers.get(id)?.(body));
const later = () => jest.spyOn(performance, "now").mockReturnValue(performance.now() + 1000);
const refusal = (title: string, code: string) => Response.json({ title, detail: "Look at it again", status: 409, code }, { status: 409 });
const sent = () => api.asked.filter((a) => a.endsWith("/file"));

describe("Filing from the table", () => {
  afterEach(() => void jest.restoreAllMocks());
  test("opens the next document before the server has answered, and says so until it has", async () => {
    draw();
    await isReady();
    press("f");
    await open("a2.pdf");
    expect(screen.queryByText("a1.pdf")).toBeNull();
    expect(screen.getByText("Filing: Supplier invoice")).toBeTruthy();
    await waitFor(() => expect(answers.has("a1")).toBe(true));
    await answer("a1", testFiled);
    expect(await screen.findByText("Filed: Supplier invoice 77")).toBeTruthy();
    expect(screen.queryByText("Filing: Supplier invoice")).toBeNull();
    expect(screen.getByRole("heading", { level: 1 }).textContent).toBe("a2.pdf");
  });
  test("a second press right after it does not file what nobody has looked at", async () => {
    draw();
    await isReady();
    // However slow the machine is, the second press comes at once.
    const pressed = performance.now();
    press("f");
    await open("a2.pdf");
    await isReady();
    jest.spyOn(performance, "now").mockReturnValue(pressed);
    press("f");
    expect(sent()).toEqual(["POST /arrivals/a1/file"]);
    jest.restoreAllMocks();
    later();
    press("f");
    await open("a3.pdf");
    await waitFor(() => expect(sent()).toEqual(["POST /arrivals/a1/file", "POST /arrivals/a2/file"]));
  });
  test("nor does one that comes when the next document has only just been drawn, however long that took", () => {
    let filing: ReturnType<typeof useFiling> | undefined;
    function Holder() {
      filing = useFiling({ goOn: () => {}, drop: () => {}, open: () => {}, refresh: () => {} });
      return null;
    }
    api = fakeApi({});
    renderOnPage(<Holder />);
    const at = (ms: number): void => void jest.spyOn(performance, "now").mockReturnValue(ms);
    at(0);
    act(() => filing?.onFiling({ ...testArrival, tied }, "Supplier invoice"));
    at(1000);
    filing?.onShown();
    at(1200);
    expect(filing?.isTooSoon()).toBe(true);
    at(1300);
    expect(filing?.isTooSoon()).toBe(false);
    // Another one that a person goes to by themselves is open to the key at once.
    filing?.onShown();
    expect(filing?.isTooSoon()).toBe(false);
  });
  test("refused: it is back in its place with its sheet as it was, and nothing opens under the hands", async () => {
    draw();
    await isReady();
    fireEvent.change(screen.getByLabelText("Number"), { target: { value: "77-3108" } });
    fireEvent.change(screen.getByLabelText("Title"), { target: { value: "My title" } });
    press("f");
    await open("a2.pdf");
    await waitFor(() => expect(answers.has("a1")).toBe(true));
    await answer("a1", refusal("Somebody else was quicker", "stale"));
    expect(await screen.findByText("Not filed: a1.pdf")).toBeTruthy();
    expect(screen.getByText("a1.pdf")).toBeTruthy();
    expect(screen.getByRole("heading", { level: 1 }).textContent).toBe("a2.pdf");
    fireEvent.click(screen.getByRole("button", { name: "Open it" }));
    await open("a1.pdf");
    expect(screen.getByText(/Somebody else was quicker\. Look at it again/)).toBeTruthy();
    expect(screen.getByLabelText<HTMLInputElement>("Number").value).toBe("77-3108");
    expect(screen.getByLabelText<HTMLInputElement>("Title").value).toBe("My title");
    // Filed after all, it is forgotten.
    await isReady();
    later();
    press("f");
    await waitFor(() => expect(sent()).toHaveLength(2));
    await answer("a1", testFiled);
    expect(await screen.findByText("Filed: Supplier invoice 77")).toBeTruthy();
  });
  test("Z before the answer takes back this one, and no other", async () => {
    draw();
    await isReady();
    press("f");
    await open("a2.pdf");
    press("z");
    await waitFor(() => expect(answers.has("a1")).toBe(true));
    expect(api.asked).not.toContain("POST /documents/AC-000001/unfile");
    await answer("a1", testFiled);
    await waitFor(() => expect(api.asked).toContain("POST /documents/AC-000001/unfile"));
    expect(screen.queryByText("Filed: Supplier invoice 77")).toBeNull();
  });
  test("what would show on many records is asked before anything is sent or opened", async () => {
    isWide = true;
    draw();
    await screen.findByText(/That is a lot/);
    press("f");
    expect(await screen.findByRole("button", { name: "Show on all" })).toBeTruthy();
    expect(screen.getByRole("heading", { level: 1 }).textContent).toBe("a1.pdf");
    expect(sent()).toEqual([]);
    fireEvent.click(screen.getByRole("button", { name: "Show on all" }));
    await open("a2.pdf");
    await waitFor(() => expect(sent()).toHaveLength(1));
  });
  test("a question that only the server knew of stands when the document is opened again", async () => {
    draw();
    await isReady();
    press("f");
    await open("a2.pdf");
    await waitFor(() => expect(answers.has("a1")).toBe(true));
    await answer("a1", refusal("This would show on many records", "reaches-many"));
    fireEvent.click(await screen.findByRole("button", { name: "Open it" }));
    expect(await screen.findByRole("button", { name: "Show on all" })).toBeTruthy();
  });
  test("who goes on by hand while it is not known who would see it stays there when it is filed", async () => {
    draw("unknown");
    await screen.findByText("x.pdf");
    press("f");
    await waitFor(() => expect(answers.has("a1")).toBe(true));
    expect(screen.getByRole("heading", { level: 1 }).textContent).toBe("a1.pdf");
    press("3");
    await open("a3.pdf");
    await answer("a1", testFiled);
    expect(await screen.findByText("Filed: Supplier invoice 77")).toBeTruthy();
    expect(screen.getByRole("heading", { level: 1 }).textContent).toBe("a3.pdf");
  });
  test("opened from its notice on another screen it leads to Arrivals", async () => {
    const page = draw();
    await isReady();
    press("f");
    await waitFor(() => expect(answers.has("a1")).toBe(true));
    page.rerender(<h1>another screen</h1>);
    await answer("a1", refusal("Somebody else was quicker", "stale"));
    fireEvent.click(await screen.findByRole("button", { name: "Open it" }));
    expect(went).toEqual(["/arrivals?at=a1"]);
  });
});
