import { act, cleanup, fireEvent, renderHook, screen, waitFor } from "@testing-library/react";
import type { ArrivalAnswer } from "#server/arrivals/list-arrivals.ts";
import { fakeApi, renderOnPage } from "../kit/test-page.tsx";
import { ArrivalNotes } from "./arrival-notes.tsx";
import { AskDialog } from "./ask-dialog.tsx";
import { HandOverDialog, type HandOverWish } from "./hand-over-dialog.tsx";
import { SetAsideDialog } from "./set-aside-dialog.tsx";
import { useClaim } from "./use-claim.ts";
import { waitingLines } from "./waiting-list.tsx";

let api: ReturnType<typeof fakeApi> | null = null;
afterEach(() => {
  cleanup();
  api?.end();
  api = null;
  jest.useRealTimers();
});
const arrival = (over: Partial<ArrivalAnswer> = {}): ArrivalAnswer =>
  ({ id: "a1", fileName: "a.pdf", duplicates: [], twin: null, handed: null, mail: null, ...over }) as unknown as ArrivalAnswer;
const notes = (over: Partial<ArrivalAnswer>, other: string | null = null, said: unknown[] = []) => (
  <ArrivalNotes
    arrival={arrival(over)}
    other={other}
    onTakeOver={() => said.push("took")}
    onSetAside={(reason) => said.push(reason)}
    onVersion={() => said.push("version")}
    onChanged={() => said.push("changed")}
  />
);

describe("What is to be known of a document", () => {
  test("who works on it, with a way to take over; a word that came with it", () => {
    const said: unknown[] = [];
    renderOnPage(notes({ handed: { to: null, toMe: true, by: "Isla Rowe", word: "yours?" } }, "Tam Corrigall", said));
    expect(screen.getByText(/assigned it to you: yours\?/)).toBeTruthy();
    fireEvent.click(screen.getByRole("button", { name: "Take over" }));
    expect(said).toEqual(["took"]);
  });
  test("a queue that asks is answered with one press", async () => {
    api = fakeApi({ "/arrivals/a1/keep": () => ({ state: "setAside" }) });
    renderOnPage(notes({ mail: { spf: null, dkim: null, junk: null, to: "payables", code: null, asks: true } }));
    fireEvent.click(screen.getByRole("button", { name: "Attachments only" }));
    await waitFor(() => expect(api?.asked).toContain("POST /arrivals/a1/keep"));
    expect(await screen.findByText("Kept: attachments only")).toBeTruthy();
  });
  test("one nearly the same is compared: what differs stands on both sides, and it is kept, set aside or filed as a version", async () => {
    api = fakeApi({
      "/arrivals/a1/compare": () => ({
        onlyHere: ["rona"],
        onlyThere: ["nobody"],
        here: { base: "/arrivals/a1", name: "a.pdf", pages: 1 },
        there: { base: "/documents/AC-000001", name: "Agreed AC-000001", pages: 2 },
      }),
      "/arrivals/a1/view": () => ({
        kind: "text",
        pages: [],
        pictures: false,
        state: "read",
        problem: null,
        outline: null,
        text: "x",
        looking: null,
      }),
      "/documents/AC-000001/view": () => ({
        kind: "text",
        pages: [],
        pictures: false,
        state: "read",
        problem: null,
        outline: null,
        text: "y",
        looking: null,
      }),
      "/arrivals/a1/tell-apart": () => ({ done: true }),
      "/arrivals/a1/file-as-version": () => ({ code: "AC-000001" }),
    });
    const said: unknown[] = [];
    const like = { duplicates: [{ code: "AC-000001", title: "Agreed", kind: "near", similarity: 0.91 }] } as const;
    renderOnPage(notes(like, null, said));
    expect(screen.getByText(/Nearly the same document is already filed \(91 % similar\)/)).toBeTruthy();
    fireEvent.click(screen.getByRole("button", { name: "Compare" }));
    expect(await screen.findByText("rona")).toBeTruthy();
    fireEvent.click(screen.getByRole("button", { name: "Keep both" }));
    await waitFor(() => expect(said).toEqual(["changed"]));
    fireEvent.click(screen.getByRole("button", { name: "Compare" }));
    await screen.findByText("rona");
    fireEvent.click(screen.getByRole("button", { name: "File as the next version" }));
    await waitFor(() => expect(said).toEqual(["changed", "version"]));
  });
});

describe("Dialogs", () => {
  test("handing over asks to whom and with what word", async () => {
    api = fakeApi({
      "/arrivals/hand-over": () => ({ queues: [{ key: "general", label: "General" }], people: [{ id: "p2", name: "Maren Holt" }] }),
    });
    const said: HandOverWish[] = [];
    renderOnPage(<HandOverDialog count={2} onHide={() => {}} onHand={(wish) => said.push(wish)} />);
    await screen.findByText("Maren Holt");
    expect(screen.getByRole("button", { name: "Assign" }).hasAttribute("disabled")).toBe(true);
    fireEvent.change(screen.getByLabelText("To"), { target: { value: "person p2" } });
    fireEvent.change(screen.getByLabelText("Message"), { target: { value: " yours? " } });
    fireEvent.click(screen.getByRole("button", { name: "Assign" }));
    expect(said).toEqual([{ person: "p2", word: "yours?", whom: "Maren Holt" }]);
  });
  test("setting aside says whether it is junk", () => {
    const said: unknown[] = [];
    renderOnPage(<SetAsideDialog count={1} onHide={() => {}} onSet={(reason, junk) => said.push([reason, junk])} />);
    fireEvent.click(screen.getByLabelText(/Junk: mark/));
    fireEvent.click(screen.getByRole("button", { name: "Set aside" }));
    expect(said).toEqual([["Not needed", true]]);
  });
  test("one line is asked for and never answered empty", () => {
    const said: string[] = [];
    renderOnPage(
      <AskDialog title="Rename" label="Name" start="a.pdf" action="Rename" onHide={() => {}} onAnswer={(name) => said.push(name)} />,
    );
    fireEvent.change(screen.getByLabelText("Name"), { target: { value: "  " } });
    expect(screen.getByRole("button", { name: "Rename" }).hasAttribute("disabled")).toBe(true);
    fireEvent.change(screen.getByLabelText("Name"), { target: { value: " b.pdf " } });
    fireEvent.click(screen.getByRole("button", { name: "Rename" }));
    expect(said).toEqual(["b.pdf"]);
  });
});

describe("Claims", () => {
  // The real one, kept before the clock is ours: what a call waits for is not the clock.
  const next = setImmediate;
  const after = (ms: number, first: () => void = () => {}): Promise<void> =>
    act(async () => {
      first();
      for (const step of [ms, 1]) {
        jest.advanceTimersByTime(step);
        await new Promise((resolve) => next(resolve));
      }
    });
  test("a document that is open is claimed after a moment and let go of afterwards; somebody else's is told", async () => {
    jest.useFakeTimers();
    let taken = true;
    api = fakeApi({
      "/arrivals/a1/claim": () =>
        taken
          ? Response.json({ title: "Somebody else works on this", detail: "Tam Corrigall · Wait", code: "claimed" }, { status: 409 })
          : { id: "p1", name: "Me", until: "2026-11-25T10:00:00Z" },
      "/arrivals/a1/let-go": () => ({ done: true }),
    });
    const drawn = renderHook(({ id }) => useClaim(id, true), { initialProps: { id: "a1" as string | undefined } });
    expect(api.asked).toEqual([]);
    await after(1_500);
    expect(drawn.result.current.other).toBe("Tam Corrigall");
    taken = false;
    await after(10, () => drawn.result.current.takeOver());
    expect(drawn.result.current.other).toBeNull();
    drawn.rerender({ id: undefined });
    await after(10);
    expect(api.asked.at(-1)).toBe("POST /arrivals/a1/let-go");
  });
});

test("headings stand where the group changes; rows side by side never cross one", () => {
  const items = ["A", "A", "A", "B", "C", "C"].map((sender, i) => arrival({ id: String(i), sender }));
  expect(waitingLines(items, 2, (a) => a.sender ?? "")).toEqual([
    { heading: "A", count: 3 },
    { from: 0, count: 2 },
    { from: 2, count: 1 },
    { heading: "B", count: 1 },
    { from: 3, count: 1 },
    { heading: "C", count: 2 },
    { from: 4, count: 2 },
  ]);
  expect(waitingLines(items, 1, null)).toHaveLength(6);
});
