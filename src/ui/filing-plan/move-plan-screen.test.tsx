import { cleanup, fireEvent, screen, waitFor, within } from "@testing-library/react";
import { NuqsTestingAdapter } from "nuqs/adapters/testing";
import type { PlanAnswer, StepAnswer } from "#server/filing-plan/load-plan.ts";
import { TopSlotProvider } from "../frame/top-slot.tsx";
import { fakeApi, renderOnPage, went } from "../kit/test-page.tsx";
import { MovePlanScreen, MovePlansScreen } from "./move-plan-screen.tsx";

const plan: PlanAnswer = {
  id: "p1",
  cause: "rule",
  label: "Freight bookings",
  state: "drawn",
  why: null,
  steps: 3,
  done: 0,
  failed: 0,
  clashes: 1,
  documents: 12,
  folders: 2,
  looked: 40,
  madeAt: "2026-11-25T08:00:00Z",
  startedAt: null,
  endedAt: null,
  undoUntil: null,
  recordType: "freightBooking",
};
const move = (position: number, over: Partial<StepAnswer> = {}): StepAnswer => ({
  position,
  kind: "folder",
  code: null,
  record: { company: "MF", type: "freightBooking", key: `B-${position}`, title: "Booking" },
  from: `Customers/Orrin/Bookings/2026/B-${position}`,
  fromConnection: "companyFolders",
  to: `Customers/Orrin/Freight/2026/B-${position}`,
  toConnection: "companyFolders",
  documents: 4,
  foundBy: "name",
  state: "planned",
  why: null,
  ...over,
});
let api: ReturnType<typeof fakeApi>;
let acts: string[] = [];
afterEach(() => {
  cleanup();
  api.end();
  went.length = 0;
  acts = [];
});
function draw(over: Partial<PlanAnswer> = {}, steps: readonly StepAnswer[] = [move(1), move(2)], after: unknown = null): void {
  const now = { ...plan, ...over };
  api = fakeApi({
    "/move-plans/p1": (_, address) => {
      const act = address.split("/")[3];
      if (act === undefined) return now;
      acts.push(act);
      return after ?? { ...now, state: "running" };
    },
    "/move-plans/p1/steps": () => ({ items: steps, next: null, total: steps.length }),
  });
  renderPlan();
}
const renderPlan = () =>
  renderOnPage(
    <NuqsTestingAdapter hasMemory>
      <TopSlotProvider>
        <MovePlanScreen id="p1" />
      </TopSlotProvider>
    </NuqsTestingAdapter>,
  );

describe("A move plan", () => {
  test("shows what would move, old and new, and begins with one press that also saves the rule", async () => {
    draw();
    expect(await screen.findByText("12 documents")).toBeTruthy();
    expect(screen.getByText(/1 clash/)).toBeTruthy();
    const [, first] = await screen.findAllByRole("row");
    // What differs stands out, on both sides.
    expect([...(first?.querySelectorAll("strong") ?? [])].map((s) => s.textContent)).toEqual(["Bookings", "Freight"]);
    fireEvent.click(screen.getByRole("button", { name: "Save rule and start moving 12 documents" }));
    await waitFor(() => expect(acts).toEqual(["start"]));
    expect(await screen.findByRole("button", { name: "Stop" })).toBeTruthy();
  });

  test.each([
    ["running", {}, ["Stop"]],
    ["stopped", { done: 1 }, ["Undo all", "Retry failed moves", "Resume"]],
    ["done", { done: 2, clashes: 0 }, ["Undo all"]],
    ["done", { done: 2, failed: 1 }, ["Undo all", "Retry failed moves"]],
    ["undoing", { done: 1 }, ["Stop"]],
    ["undone", {}, []],
    ["drawing", {}, ["Discard plan"]],
  ])("that is %s offers what can be done then", async (state, over, words) => {
    draw({ state, ...over });
    await screen.findAllByRole("row");
    const foot = document.querySelector(".foot");
    expect([...(foot?.querySelectorAll("button") ?? [])].map((b) => b.textContent)).toEqual(words);
  });

  test("that waits for its repository says so; one that was moved says how long it can be undone", async () => {
    draw({ state: "running", why: "repository-unreachable" });
    expect(await screen.findByText(/Waiting: the repository cannot be reached/)).toBeTruthy();
    cleanup();
    api.end();
    draw({ state: "done", done: 2, undoUntil: "2026-12-25T08:00:00Z" });
    expect(await screen.findByText(/Can be undone until/)).toBeTruthy();
  });

  test("to another connection says its name as people see it", async () => {
    api = fakeApi({
      "/move-plans/p1": () => plan,
      "/move-plans/p1/steps": () => ({ items: [move(1, { toConnection: "connection2" })], next: null, total: 1 }),
      "/folder-rules": () => ({ rules: [], counts: {}, connections: [{ key: "connection2", label: "Quay archive" }] }),
    });
    renderPlan();
    expect(await screen.findByText("Quay archive")).toBeTruthy();
  });

  test("that ends between two looks shows what became of each move", async () => {
    let looks = 0;
    api = fakeApi({
      // Over at the second look; its moves were last asked for before that.
      "/move-plans/p1": () => (looks++ === 0 ? { ...plan, state: "running" } : { ...plan, state: "done", done: 2, clashes: 0 }),
      "/move-plans/p1/steps": () => ({ items: [move(1, { state: looks > 1 ? "moved" : "planned" })], next: null, total: 1 }),
    });
    renderPlan();
    expect(within((await screen.findAllByRole("row"))[1] as HTMLElement).getByText("to move")).toBeTruthy();
    await waitFor(() => expect(within(screen.getAllByRole("row")[1] as HTMLElement).getByText("moved")).toBeTruthy(), { timeout: 4000 });
  });

  test("that is over before it can be stopped just shows that it is", async () => {
    draw(
      { state: "running" },
      undefined,
      Response.json({ title: "The plan is not in that state", status: 409, code: "plan-state" }, { status: 409 }),
    );
    fireEvent.click(await screen.findByRole("button", { name: "Stop" }));
    await waitFor(() => expect(acts).toEqual(["stop"]));
    await waitFor(() => expect(api.asked.filter((a) => a === "GET /move-plans/p1").length).toBeGreaterThan(1));
    expect(screen.queryByText("The plan is not in that state")).toBeNull();
  });

  test("names each clash, and what got a number because its name was taken", async () => {
    draw({}, [move(1, { state: "clash", why: "taken" }), move(2, { foundBy: "number" }), move(3, { kind: "file", code: "AC-000009" })]);
    const [, first, second, third] = await screen.findAllByRole("row");
    expect(first?.textContent).toContain("the name is taken");
    expect(second?.textContent).toContain("the name was taken");
    expect(
      within(third as HTMLElement)
        .getByRole("link")
        .getAttribute("href"),
    ).toBe("/documents/AC-000009");
  });

  test("is searched and narrowed by the server", async () => {
    draw();
    await screen.findAllByRole("row");
    fireEvent.click(screen.getByRole("button", { name: "clashes" }));
    await waitFor(() => expect(api.asked.some((a) => a.includes("show=trouble"))).toBe(true));
    fireEvent.change(screen.getByLabelText("Search old or new location"), { target: { value: "orrin" } });
    await waitFor(() => expect(api.asked.some((a) => a.includes("q=orrin"))).toBe(true));
  });

  test("that is dropped leads back to the filing plan; one without moves says that all is in place", async () => {
    draw({ steps: 0, documents: 0, folders: 0, clashes: 0 }, [], { ...plan, state: "dropped" });
    expect(await screen.findByText("Everything is where the filing plan says.")).toBeTruthy();
    fireEvent.click(screen.getByRole("button", { name: "Discard plan" }));
    await waitFor(() => expect(went).toEqual(["/filing-plan"]));
  });
});

test("The list of plans names each with its state; with none it says where one begins", async () => {
  api = fakeApi({ "/move-plans": () => ({ items: [{ ...plan, state: "stopped" }] }) });
  renderOnPage(
    <TopSlotProvider>
      <MovePlansScreen />
    </TopSlotProvider>,
  );
  expect((await screen.findByRole("link", { name: "Freight bookings" })).getAttribute("href")).toBe("/filing-plan/moves/p1");
  expect(screen.getByText("stopped").className).toContain("rust");
  cleanup();
  api.end();
  api = fakeApi({ "/move-plans": () => ({ items: [] }) });
  renderOnPage(
    <TopSlotProvider>
      <MovePlansScreen />
    </TopSlotProvider>,
  );
  expect(await screen.findByText("No move plans yet")).toBeTruthy();
});
