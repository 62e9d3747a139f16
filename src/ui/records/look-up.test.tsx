import { cleanup, fireEvent, screen, waitFor } from "@testing-library/react";
import type { LookupHit } from "#server/records/look-up.ts";
import { fakeApi, renderOnPage } from "../kit/test-page.tsx";
import { LookUp } from "./look-up.tsx";

const hit = (key: string, more: Partial<LookupHit> = {}): LookupHit => ({
  id: Number(key.replace(/\D/g, "")) || 1,
  company: "MF",
  type: "purchaseOrder",
  key,
  title: `Order ${key}`,
  status: "open",
  date: "2026-11-18",
  amount: "5835.00",
  currency: "GBP",
  parent: null,
  corrected: false,
  ...more,
});
let api: ReturnType<typeof fakeApi>;
afterEach(() => {
  cleanup();
  api.end();
});
const field = () => screen.getByRole("combobox", { name: "Look up a record" });
const draw = (answer: (address: string) => unknown, parent?: { type: string; key: string }) => {
  const chosen: string[] = [];
  api = fakeApi({ "/records/lookup": (_body, address) => answer(address) });
  renderOnPage(<LookUp company="MF" parent={parent} onChoose={(h) => chosen.push(h.key)} />);
  return chosen;
};

describe("Looking a record up", () => {
  test("shows the last ones used when nothing is typed, with what tells them apart", async () => {
    draw(() => ({ items: [hit("PO-1"), hit("PO-2")] }));
    fireEvent.focus(field());
    expect(await screen.findByText("Recently used")).toBeTruthy();
    expect(screen.getAllByRole("option")[0]?.textContent).toContain("18 Nov 2026 · 5,835.00 GBP · open");
  });
  test("arrows and Enter choose", async () => {
    const chosen = draw(() => ({ items: [hit("PO-1"), hit("PO-2"), hit("PO-3")] }));
    fireEvent.focus(field());
    await screen.findAllByRole("option");
    fireEvent.keyDown(field(), { key: "ArrowDown" });
    fireEvent.keyDown(field(), { key: "ArrowDown" });
    fireEvent.keyDown(field(), { key: "ArrowUp" });
    expect(screen.getAllByRole("option")[1]?.getAttribute("aria-selected")).toBe("true");
    expect(field().getAttribute("aria-activedescendant")).toBe(screen.getAllByRole("option")[1]?.id);
    fireEvent.keyDown(field(), { key: "Enter" });
    await waitFor(() => expect(chosen).toEqual(["PO-2"]));
  });
  test("who types fast and presses Enter gets what they typed, never what stood there before", async () => {
    let release = (): void => {};
    const chosen = draw((address) =>
      address.includes("q=6127")
        ? new Promise((resolve) => (release = () => resolve({ items: [hit("PO-6127")] })))
        : { items: [hit("PO-9999")] },
    );
    fireEvent.focus(field());
    await screen.findByText("PO-9999");
    fireEvent.change(field(), { target: { value: "6127" } });
    fireEvent.keyDown(field(), { key: "Enter" });
    expect(chosen).toEqual([]);
    await waitFor(() => expect(api.asked.some((a) => a.includes("q=6127"))).toBe(true));
    release();
    await waitFor(() => expect(chosen).toEqual(["PO-6127"]));
  });
  test("Enter counts no more when one goes on typing", async () => {
    let release = (): void => {};
    const chosen = draw((address) =>
      /q=61(&|$)/.test(address)
        ? new Promise((resolve) => (release = () => resolve({ items: [hit("PO-61")] })))
        : { items: [hit("PO-6127")] },
    );
    fireEvent.focus(field());
    fireEvent.change(field(), { target: { value: "61" } });
    fireEvent.keyDown(field(), { key: "Enter" });
    fireEvent.change(field(), { target: { value: "6127" } });
    release();
    await screen.findByText("PO-6127");
    expect(chosen).toEqual([]);
  });
  test("says when nothing fits, and when a spelling was put right", async () => {
    draw((address) => ({ items: address.includes("zzz") ? [] : [hit("PO-7", { corrected: true })] }), {
      type: "supplierAccount",
      key: "S-1",
    });
    fireEvent.focus(field());
    fireEvent.change(field(), { target: { value: "zzz" } });
    expect(await screen.findByText(/No record found of S-1/)).toBeTruthy();
    fireEvent.change(field(), { target: { value: "galey" } });
    expect(await screen.findByText("No exact match. Similar:")).toBeTruthy();
    expect(api.asked.at(-1)).toContain("parent=supplierAccount%3AS-1");
  });
  test("says when the program cannot be reached", async () => {
    draw(() => Response.json({ title: "Part of the program is not answering", status: 503, code: "unavailable" }, { status: 503 }));
    fireEvent.focus(field());
    expect(await screen.findByText("Part of the program is not answering")).toBeTruthy();
  });
  test("Escape closes it, a click chooses", async () => {
    const chosen = draw(() => ({ items: [hit("PO-1")] }));
    fireEvent.focus(field());
    await screen.findByRole("option");
    fireEvent.keyDown(field(), { key: "Escape" });
    expect(screen.queryByRole("option")).toBeNull();
    fireEvent.focus(field());
    fireEvent.pointerDown(await screen.findByRole("option"));
    expect(chosen).toEqual(["PO-1"]);
  });
});
