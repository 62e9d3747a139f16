import { act, cleanup, fireEvent, render, screen } from "@testing-library/react";
import { useState } from "react";
import { Columns } from "./columns.tsx";
import { DayFilter, DayInput } from "./day-input.tsx";
import { Notices, useNotices } from "./notices.tsx";
import { Empty, Trouble } from "./parts.tsx";
import { useKeys } from "./use-keys.ts";

afterEach(() => {
  cleanup();
  localStorage.clear();
});

describe("Keys", () => {
  const hits: string[] = [];
  function Page({ enabled = true }: { enabled?: boolean }) {
    useKeys(
      {
        j: () => hits.push("j"),
        "/": () => hits.push("/"),
        Enter: () => hits.push("Enter"),
        "ctrl+Enter": () => hits.push("ctrl+Enter"),
        "ctrl+k": () => hits.push("ctrl+k"),
      },
      enabled,
    );
    return (
      <>
        <input aria-label="field" />
        <input type="checkbox" aria-label="tick" />
        <button type="button">button</button>
      </>
    );
  }
  beforeEach(() => void hits.splice(0));

  test("work on the page, large or small", () => {
    render(<Page />);
    fireEvent.keyDown(document.body, { key: "j" });
    fireEvent.keyDown(document.body, { key: "J" });
    fireEvent.keyDown(document.body, { key: "k", ctrlKey: true });
    expect(hits).toEqual(["j", "j", "ctrl+k"]);
  });
  test("a screen's own keys go before those that hold everywhere, though these were there first", () => {
    const said: string[] = [];
    function Everywhere({ children }: { children?: React.ReactNode }) {
      useKeys({ z: () => said.push("everywhere"), y: () => said.push("everywhere y") });
      return <>{children}</>;
    }
    function Screen() {
      useKeys({ z: () => said.push("screen") });
      return null;
    }
    const page = render(<Everywhere />);
    page.rerender(
      <Everywhere>
        <Screen />
      </Everywhere>,
    );
    fireEvent.keyDown(document.body, { key: "z" });
    fireEvent.keyDown(document.body, { key: "y" });
    expect(said).toEqual(["screen", "everywhere y"]);
  });
  test("do nothing while somebody types in a field, but for Ctrl Enter", () => {
    render(<Page />);
    const field = screen.getByLabelText("field");
    for (const key of ["j", "/", "Enter"]) fireEvent.keyDown(field, { key });
    expect(hits).toEqual([]);
    fireEvent.keyDown(field, { key: "Enter", ctrlKey: true });
    expect(hits).toEqual(["ctrl+Enter"]);
    fireEvent.keyDown(screen.getByLabelText("tick"), { key: "j" });
    expect(hits).toContain("j");
  });
  test("Escape leaves a field", () => {
    render(<Page />);
    const field = screen.getByLabelText("field");
    field.focus();
    fireEvent.keyDown(field, { key: "Escape" });
    expect(document.activeElement).toBe(document.body);
  });
  test("Enter on a button belongs to the button", () => {
    render(<Page />);
    fireEvent.keyDown(screen.getByText("button"), { key: "Enter" });
    expect(hits).toEqual([]);
  });
  test("do nothing behind an open dialog, when switched off, or with other modifiers", () => {
    const { rerender } = render(<Page />);
    fireEvent.keyDown(document.body, { key: "j", altKey: true });
    const dialog = document.createElement("div");
    dialog.className = "modal show";
    document.body.append(dialog);
    fireEvent.keyDown(document.body, { key: "j" });
    dialog.remove();
    rerender(<Page enabled={false} />);
    fireEvent.keyDown(document.body, { key: "j" });
    expect(hits).toEqual([]);
  });
});

describe("A day", () => {
  function Field() {
    const [value, setValue] = useState("2026-11-18");
    return (
      <>
        <DayInput label="Dated" value={value} onChange={setValue} wrong={value !== "" && !/^\d{4}-/.test(value)} />
        <output>{value}</output>
      </>
    );
  }
  const field = () => screen.getByLabelText<HTMLInputElement>("Dated");
  test("is shown as people write it and taken in any usual way", () => {
    render(<Field />);
    expect(field().value).toBe("18 Nov 2026");
    fireEvent.change(field(), { target: { value: "3.2.27" } });
    fireEvent.keyDown(field(), { key: "Enter" });
    expect(field().value).toBe("3 Feb 2027");
    expect(screen.getByRole("status").textContent).toBe("2027-02-03");
  });
  test("what is no day stays as it was typed, and is wrong", () => {
    render(<Field />);
    fireEvent.change(field(), { target: { value: "31.11.26" } });
    fireEvent.blur(field());
    expect(field().value).toBe("31.11.26");
    expect(field().getAttribute("aria-invalid")).toBe("true");
    fireEvent.change(field(), { target: { value: "" } });
    fireEvent.blur(field());
    expect(screen.getByRole("status").textContent).toBe("");
  });
  test("Escape puts back what stood there", () => {
    render(<Field />);
    fireEvent.change(field(), { target: { value: "nonsense" } });
    fireEvent.keyDown(field(), { key: "Escape" });
    expect(field().value).toBe("18 Nov 2026");
  });
  test("as a filter, what is no day counts as none", () => {
    const heard: (string | null)[] = [];
    render(<DayFilter label="From" value="" onChange={(day) => heard.push(day)} />);
    const from = screen.getByLabelText("From");
    fireEvent.change(from, { target: { value: "soon" } });
    fireEvent.blur(from);
    fireEvent.change(from, { target: { value: "18 Nov 26" } });
    fireEvent.blur(from);
    expect(heard).toEqual([null, "2026-11-18"]);
  });
});

describe("Notices", () => {
  beforeEach(() => void jest.useFakeTimers());
  afterEach(() => void jest.useRealTimers());
  let undone = 0;
  function Page() {
    const notices = useNotices();
    return (
      <>
        <button type="button" onClick={() => notices.done("Filed", { more: "there", undo: () => undone++ })}>
          done
        </button>
        <button type="button" onClick={() => notices.wrong(new Error("because"))}>
          wrong
        </button>
        <button type="button" onClick={() => notices.undoLast()}>
          last
        </button>
      </>
    );
  }
  const draw = () =>
    render(
      <Notices>
        <Page />
      </Notices>,
    );
  test("offer undo for ten seconds", () => {
    draw();
    fireEvent.click(screen.getByText("done"));
    expect(screen.getByText("Filed")).toBeTruthy();
    act(() => void jest.advanceTimersByTime(9_900));
    fireEvent.click(screen.getByText(/Undo/));
    expect(undone).toBe(1);
    fireEvent.click(screen.getByText("done"));
    act(() => void jest.advanceTimersByTime(10_100));
    expect(screen.queryByText("Filed")).toBeNull();
  });
  test("of what went wrong stay until they are closed", () => {
    draw();
    fireEvent.click(screen.getByText("wrong"));
    act(() => void jest.advanceTimersByTime(60_000));
    expect(screen.getByText("because")).toBeTruthy();
    fireEvent.click(screen.getByLabelText("Close"));
    expect(screen.queryByText("because")).toBeNull();
  });
  test("at most three stand there; the key undoes the last one that can be", () => {
    draw();
    for (let i = 0; i < 4; i++) fireEvent.click(screen.getByText("done"));
    fireEvent.click(screen.getByText("wrong"));
    expect(screen.getAllByText("Filed")).toHaveLength(2);
    const before = undone;
    fireEvent.click(screen.getByText("last"));
    expect(undone).toBe(before + 1);
  });
});

describe("Columns", () => {
  const draw = () =>
    render(
      <Columns name="trial" grows={1} step={0} sides={{ 0: { start: 200, min: 150, max: 300 }, 2: { start: 250, min: 200, max: 400 } }}>
        <p>left</p>
        <p>middle</p>
        <p>right</p>
      </Columns>,
    );
  const widthOf = (text: string): string => screen.getByText(text).parentElement?.style.width ?? "";
  test("are resized with the arrow keys within their limits, and remember it", () => {
    draw();
    const [left, right] = screen.getAllByRole("separator");
    if (!left || !right) throw new Error("no grips");
    fireEvent.keyDown(left, { key: "ArrowRight" });
    expect(widthOf("left")).toBe("216px");
    for (let i = 0; i < 20; i++) fireEvent.keyDown(left, { key: "ArrowRight" });
    expect(widthOf("left")).toBe("300px");
    fireEvent.keyDown(right, { key: "ArrowLeft" });
    expect(widthOf("right")).toBe("266px");
    cleanup();
    draw();
    expect(widthOf("left")).toBe("300px");
  });
  test("what was remembered wrongly is not used", () => {
    localStorage.setItem("columns.trial", "{broken");
    draw();
    expect(widthOf("left")).toBe("200px");
  });
});

describe("Parts", () => {
  test("an error says what to do and can be tried again", () => {
    let times = 0;
    render(<Trouble title="No connection to the server" next="It tries again by itself." again={() => times++} />);
    fireEvent.click(screen.getByText("Try again"));
    expect(times).toBe(1);
    expect(screen.getByRole("alert").textContent).toContain("tries again");
  });
  test("an empty screen says what belongs there", () => {
    render(
      <Empty icon={null} title="Nothing waits">
        Drop documents here
      </Empty>,
    );
    expect(screen.getByText("Drop documents here")).toBeTruthy();
  });
});
