import { act, cleanup, fireEvent, screen, waitFor } from "@testing-library/react";
import type { ContentView } from "#server/reading/load-view.ts";
import { fakeApi, renderOnPage } from "../kit/test-page.tsx";
import type { PageMark } from "./marks.ts";
import { Viewer } from "./viewer.tsx";

const seen: ((entries: { isIntersecting: boolean }[]) => void)[] = [];
beforeAll(() => {
  globalThis.IntersectionObserver = class {
    constructor(tell: (entries: { isIntersecting: boolean }[]) => void) {
      seen.push(tell);
    }
    observe(): void {}
    disconnect(): void {}
  } as unknown as typeof IntersectionObserver;
  Element.prototype.scrollIntoView = () => {};
});
let api: ReturnType<typeof fakeApi>;
afterEach(() => {
  cleanup();
  api.end();
  seen.length = 0;
});

const view = (over: Partial<ContentView>): ContentView => ({
  of: "00ff00ff00ff00ff",
  kind: "pdf",
  mediaType: "application/pdf",
  state: "read",
  problem: null,
  pictures: false,
  pages: [],
  looking: null,
  outline: null,
  text: null,
  ...over,
});
const pages = (count: number) =>
  Array.from({ length: count }, (_, i) => ({ number: i + 1, width: 595, height: 842, words: "layer" as const, turn: 0 }));
const words = (page: number) => ({
  words: [
    { text: `Page${page}`, box: [10, 10, 40, 12] },
    { text: "langoustine", box: [60, 10, 70, 12] },
  ],
});
function draw(answer: ContentView | Response, beside: Pick<Parameters<typeof Viewer>[0], "marks" | "onPick"> = {}): void {
  api = fakeApi({
    "/documents/AC-1/view": () => answer,
    "POST /documents/AC-1/stop-reading": () => ({ state: "ready" }),
    "/documents/AC-1/pages/": (_b, address) => words(Number(/pages\/(\d+)/.exec(address)?.[1])),
  });
  renderOnPage(<Viewer base="/documents/AC-1" {...beside} />);
}
const holder = (page: number): HTMLElement => {
  const found = document.querySelector<HTMLElement>(`[data-page="${page}"]`);
  if (!found) throw new Error(`no page ${page}`);
  return found;
};

describe("A document with pages", () => {
  test("is drawn from pictures with its words over them; far pages wait until they come near", async () => {
    draw(view({ pictures: true, pages: pages(5) }));
    await screen.findByAltText("Page 1");
    expect(await screen.findByText("Page1")).toBeTruthy();
    expect(screen.queryByAltText("Page 4")).toBeNull();
    act(() => seen.forEach((tell) => tell([{ isIntersecting: true }])));
    expect(await screen.findByAltText("Page 4")).toBeTruthy();
  });
  test("a scanned page that lies on its side is shown upright; words come as they are read, and reading can be stopped", async () => {
    draw(
      view({
        pictures: true,
        pages: [
          { number: 1, width: 842, height: 595, words: "picture", turn: 90 },
          { number: 2, width: 595, height: 842, words: "coming", turn: 0 },
        ],
        looking: { done: 1 },
      }),
    );
    expect(await screen.findByText("Page1")).toBeTruthy();
    expect(holder(1).style.aspectRatio).toBe("595 / 842");
    expect(screen.queryByText("Page2")).toBeNull();
    expect(screen.getByText(/Reading page 2 of 2/)).toBeTruthy();
    fireEvent.click(screen.getByRole("button", { name: "Stop reading" }));
    await waitFor(() => expect(api.asked).toContain("POST /documents/AC-1/stop-reading"));
  });
  test("is made larger and smaller, fitted and turned, with keys too", async () => {
    draw(view({ pictures: true, pages: pages(1) }));
    await screen.findByAltText("Page 1");
    expect(holder(1).style.width).toBe("100%");
    fireEvent.click(screen.getByLabelText("Larger"));
    expect(screen.getByText("125 %")).toBeTruthy();
    fireEvent.keyDown(document.body, { key: "-" });
    fireEvent.keyDown(document.body, { key: "-" });
    expect(screen.getByText("80 %")).toBeTruthy();
    for (let i = 0; i < 20; i++) fireEvent.keyDown(document.body, { key: "+" });
    expect(screen.getByText("400 %")).toBeTruthy();
    for (let i = 0; i < 20; i++) fireEvent.click(screen.getByLabelText("Smaller"));
    expect(screen.getByText("25 %")).toBeTruthy();
    fireEvent.keyDown(document.body, { key: "w" });
    expect(screen.getByText("fit")).toBeTruthy();
    fireEvent.keyDown(document.body, { key: "r" });
    expect(holder(1).style.aspectRatio.replaceAll(" ", "")).toBe("842/595");
    fireEvent.click(screen.getByLabelText("Turn"));
    expect(holder(1).style.aspectRatio.replaceAll(" ", "")).toBe("595/842");
  });
  test("is searched over all its pages, also those not drawn yet; hits are stepped through and round", async () => {
    draw(view({ pictures: true, pages: pages(3) }));
    await screen.findByAltText("Page 1");
    fireEvent.keyDown(document.body, { key: "f", ctrlKey: true });
    const field = screen.getByRole("textbox", { name: "Search in document" });
    fireEvent.change(field, { target: { value: "langoust" } });
    expect(await screen.findByText("1 of 3")).toBeTruthy();
    expect(document.querySelectorAll(".hit")).toHaveLength(3);
    fireEvent.click(screen.getByLabelText("Next hit"));
    expect(screen.getByText("2 of 3")).toBeTruthy();
    fireEvent.click(screen.getByLabelText("Previous hit"));
    fireEvent.click(screen.getByLabelText("Previous hit"));
    expect(screen.getByText("3 of 3")).toBeTruthy();
    fireEvent.change(field, { target: { value: "lobster" } });
    expect(screen.getByText("no hits")).toBeTruthy();
    fireEvent.keyDown(field, { key: "Escape" });
    expect(screen.queryByRole("textbox", { name: "Search in document" })).toBeNull();
  });
  test("that can be shown only in part says so", async () => {
    draw(view({ pictures: true, pages: pages(1), problem: { code: "truncated", detail: null } }));
    expect(await screen.findByText(/only the first part is shown/)).toBeTruthy();
  });
});

describe("A document without pages", () => {
  test("a table is plain cells; nothing in them is worked out", async () => {
    draw(
      view({
        kind: "xlsx",
        outline: {
          kind: "table",
          sheets: [
            { name: "One", rows: [["a", "=1+1"]], truncated: true },
            { name: "Two", rows: [["b"]], truncated: false },
          ],
        },
      }),
    );
    expect(await screen.findByText("=1+1")).toBeTruthy();
    expect(screen.getByText(/download the file to see all/)).toBeTruthy();
    fireEvent.click(screen.getByText("Two"));
    expect(screen.getByText("b")).toBeTruthy();
    expect(screen.queryByText("=1+1")).toBeNull();
  });
  test("a mail says who, what and when, and what came of its parts", async () => {
    const parts = [
      { part: 1, fileName: "invoice.pdf", mediaType: "application/pdf", sizeBytes: 3000, aside: false },
      { part: 2, fileName: "logo.png", mediaType: "image/png", sizeBytes: 900, aside: true },
    ];
    draw(
      view({
        kind: "mail",
        outline: {
          kind: "mail",
          from: "A <a@b.example>",
          to: "c@d.example",
          cc: "e@f.example",
          subject: "",
          sentAt: "2026-11-18T09:00:00Z",
          text: "Good morning",
          parts,
        },
      }),
    );
    expect(await screen.findByText("(no subject)")).toBeTruthy();
    expect(screen.getByText("e@f.example")).toBeTruthy();
    expect(screen.getByText(/a separate arrival/)).toBeTruthy();
    expect(screen.getByText(/not kept/)).toBeTruthy();
  });
  const mail = (text: string) =>
    view({
      kind: "mail",
      outline: { kind: "mail", from: "a@b.example", to: "c@d.example", cc: "", subject: "Order PO-6127", sentAt: null, text, parts: [] },
    });
  const markOf = (text: string, box: PageMark["box"], over: Partial<PageMark> = {}): PageMark => ({
    number: 1,
    page: 1,
    box,
    words: `It says ${text}`,
    tone: "for",
    now: false,
    ...over,
  });
  test("what is pointed at in a mail is marked where it stands, in its subject and in its text", async () => {
    draw(mail("Dear all,\nsee PO-6127 again"), {
      marks: [markOf("the order", [36, 0, 42, 10]), markOf("it again", [24, 36, 42, 10], { number: 2, tone: "against", now: true })],
    });
    await screen.findByText(/Dear all/);
    const marked = [...document.querySelectorAll(".text-mark")];
    expect(marked.map((m) => m.querySelector("[data-at]")?.textContent)).toEqual(["PO-6127", "PO-6127"]);
    expect(marked[1]?.className).toContain("is-against is-now");
    expect(screen.getByText("It says it again")).toBeTruthy();
  });
  test("text is searched where it stands", async () => {
    draw(view({ kind: "text", text: "one langoustine\nand\ntwo langoustines" }));
    fireEvent.click(await screen.findByRole("button", { name: "Search in document" }));
    fireEvent.change(screen.getByRole("textbox", { name: "Search in document" }), { target: { value: "langoust" } });
    expect(await screen.findByText("1 of 2")).toBeTruthy();
    const shown = () => [...document.querySelectorAll(".text-hit")].map((h) => `${h.textContent} ${h.classList.contains("now")}`);
    expect(shown()).toEqual(["langoustine true", "langoustines false"]);
    fireEvent.click(screen.getByLabelText("Next hit"));
    expect(shown()).toEqual(["langoustine false", "langoustines true"]);
  });
  test("words of a mail are pointed at: one by a click, with Shift up to another, several by drawing", async () => {
    const picked: string[] = [];
    draw(mail("Total due £120.00\nby Friday"), { onPick: (p) => picked.push(`${p.text} ${p.page} ${p.box.join(" ")}`) });
    await screen.findByText(/Total due/);
    const text = document.querySelector(".prose .typed-text") ?? document.body;
    // Where the pointer is: so many letters into the text.
    let pointer = 0;
    document.caretRangeFromPoint = () => {
      const piece = [...text.querySelectorAll<HTMLElement>("[data-at]")].findLast((p) => Number(p.dataset["at"]) <= pointer);
      return { startContainer: piece?.firstChild, startOffset: pointer - Number(piece?.dataset["at"]) } as unknown as Range;
    };
    const press = (down: number, up: number, more = {}): void => {
      pointer = down;
      fireEvent.mouseDown(text, more);
      pointer = up;
      fireEvent.mouseMove(text, more);
      fireEvent.mouseUp(text, more);
    };
    press(12, 12);
    press(2, 2);
    press(8, 8, { shiftKey: true });
    press(12, 22);
    expect(picked).toEqual(["£120.00 1 60 24 42 10", "Total 1 0 24 30 10", "Total due 1 0 24 54 10", "£120.00 by Friday 1 0 24 102 22"]);
  });
  test("a cell is pointed at with a click; a mark on another sheet brings it up", async () => {
    const picked: string[] = [];
    const sheets = [
      { name: "One", rows: [["Number", "77-3108"]], truncated: false },
      { name: "Two", rows: [["Total", "£120.00"]], truncated: false },
    ];
    draw(view({ kind: "xlsx", outline: { kind: "table", sheets } }), {
      marks: [markOf("the total", [48, 12, 42, 10], { page: 2, now: true })],
      onPick: (p) => picked.push(`${p.text} ${p.page}`),
    });
    const cell = await screen.findByText("£120.00");
    expect(cell.className).toContain("text-mark");
    fireEvent.click(cell);
    fireEvent.click(screen.getByText("One"));
    expect(document.querySelector(".text-mark")).toBeNull();
    fireEvent.click(screen.getByText("77-3108"));
    expect(picked).toEqual(["£120.00 2", "77-3108 1"]);
  });
  test("text stands as text, markup and all", async () => {
    draw(view({ kind: "text", text: "<script>alert(1)</script>" }));
    expect(await screen.findByText("<script>alert(1)</script>")).toBeTruthy();
    expect(document.querySelector("script")).toBeNull();
  });
  test.each([
    ["locked", /locked with a password/],
    ["broken", /damaged/],
    ["empty", /file is empty/],
  ] as const)("%s: what it is, what to do, and the original", async (code, what) => {
    draw(view({ kind: null, state: "failed", problem: { code, detail: "some detail" } }));
    expect(await screen.findByText(what)).toBeTruthy();
    expect(screen.getByText("some detail")).toBeTruthy();
    expect(screen.getByText("Download original").getAttribute("href")).toBe("/api/v1/documents/AC-1/content?download=1");
  });
  test("what is not read yet says that it is safe", async () => {
    draw(view({ kind: null, state: "unread" }));
    expect(await screen.findByText(/The document is stored/)).toBeTruthy();
  });
  test("what cannot be loaded can be tried again", async () => {
    draw(Response.json({ title: "Part of the program is not answering", status: 503 }, { status: 503 }));
    fireEvent.click(await screen.findByText("Try again"));
    await waitFor(() => expect(api.asked.filter((a) => a.includes("/view")).length).toBe(2));
  });
});
