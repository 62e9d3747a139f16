import { cleanup, fireEvent, screen, waitFor, within } from "@testing-library/react";
import type { FindingAnswer } from "#server/repository/decide-findings.ts";
import { fakeApi, renderOnPage } from "../kit/test-page.tsx";
import { OutOfSync } from "./out-of-sync.tsx";

const record = { company: "MF", type: "purchaseOrder", key: "PO-6127", title: "Bunkering" };
const finding = (id: number, kind: FindingAnswer["kind"], over: Partial<FindingAnswer> = {}): FindingAnswer => ({
  id,
  kind,
  state: "open",
  decision: null,
  bytes: 1200,
  connection: "companyFolders",
  path: `Suppliers/Tarrin/Paper ${id}.txt`,
  why: null,
  foundAt: "2026-11-25T08:00:00Z",
  record,
  document: kind === "removed" || kind === "changed" ? { code: `AC-00000${id}`, title: `Invoice ${id}` } : null,
  ...over,
});
let api: ReturnType<typeof fakeApi>;
let decided: unknown[] = [];
afterEach(() => {
  cleanup();
  api.end();
  decided = [];
});
function draw(items: readonly FindingAnswer[], answer: unknown = { done: 1, failures: [] }): void {
  api = fakeApi({
    "/repository/findings": () => ({ items, total: items.length, kinds: {} }),
    "/repository/findings/decide": (body) => {
      decided.push(body);
      return answer;
    },
  });
  renderOnPage(<OutOfSync />);
}
const row = async (path: string) => within((await screen.findByText(path, { exact: false })).closest("tr") ?? document.body);

describe("Adrift", () => {
  test("says that all is well when nothing is", async () => {
    draw([]);
    expect(await screen.findByText("Nothing is out of sync")).toBeTruthy();
  });

  test.each([
    ["removed", ["Restore our file", "Choose another file", "Remove from its records"]],
    ["changed", ["Accept as new version", "Restore our file", "Ignore"]],
    ["new", ["Accept", "Ignore"]],
    ["folder", ["Accept", "Ignore"]],
  ] as const)("a thing that is %s offers what can be done about it, the usual first", async (kind, words) => {
    draw([finding(1, kind)]);
    const buttons = (await row("Paper 1.txt")).getAllByRole("button").map((b) => b.textContent);
    expect(buttons).toEqual(words);
  });

  test("one decision is sent for one thing, and said", async () => {
    draw([finding(1, "removed"), finding(2, "new")]);
    fireEvent.click((await row("Paper 1.txt")).getByRole("button", { name: "Restore our file" }));
    expect(await screen.findByText("1 decision carried out")).toBeTruthy();
    expect(decided).toEqual([{ ids: [1], decision: "restore" }]);
  });

  test("many are decided at once, by what holds for all of them", async () => {
    draw([finding(1, "removed"), finding(2, "changed"), finding(3, "new")]);
    fireEvent.click(await screen.findByLabelText("Select Suppliers/Tarrin/Paper 1.txt"));
    fireEvent.click(screen.getByLabelText("Select Suppliers/Tarrin/Paper 2.txt"));
    const bar = within(screen.getByText("2 selected").closest(".bar") as HTMLElement);
    expect(bar.getAllByRole("button").map((b) => b.textContent)).toEqual(["Restore our file"]);
    fireEvent.click(bar.getByRole("button"));
    await waitFor(() => expect(decided).toEqual([{ ids: [1, 2], decision: "restore" }]));
    fireEvent.click(screen.getByLabelText("Select all"));
    // Nothing holds for a document that is gone and one that is new.
    expect(within(screen.getByText("3 selected").closest(".bar") as HTMLElement).queryAllByRole("button")).toEqual([]);
  });

  test("another file is pointed to from where the old one stood", async () => {
    draw([finding(1, "removed")]);
    fireEvent.click((await row("Paper 1.txt")).getByRole("button", { name: "Choose another file" }));
    const place = await screen.findByLabelText("Path in the repository");
    expect((place as HTMLInputElement).value).toBe("Suppliers/Tarrin/");
    fireEvent.change(place, { target: { value: "Suppliers/Tarrin/Renamed.txt" } });
    fireEvent.click(screen.getByRole("button", { name: "Use this file" }));
    await waitFor(() => expect(decided).toEqual([{ ids: [1], decision: "point", path: "Suppliers/Tarrin/Renamed.txt" }]));
  });

  test("what could not be carried out is said, and why", async () => {
    draw([finding(1, "removed")], { done: 0, failures: [{ what: "AC-000001", why: "something else stands there" }] });
    fireEvent.click((await row("Paper 1.txt")).getByRole("button", { name: "Restore our file" }));
    expect(await screen.findByText(/something else stands there/)).toBeTruthy();
  });

  test("why a found file was not taken stands with it", async () => {
    draw([finding(1, "new", { why: "too-large" })]);
    expect((await row("Paper 1.txt")).getByText(/larger than allowed/)).toBeTruthy();
  });
});
