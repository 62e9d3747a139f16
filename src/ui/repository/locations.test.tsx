import { cleanup, fireEvent, screen, waitFor, within } from "@testing-library/react";
import { NuqsTestingAdapter } from "nuqs/adapters/testing";
import type { LocationAnswer } from "#server/repository/browse.ts";
import { fakeApi, renderOnPage } from "../kit/test-page.tsx";
import { Locations } from "./locations.tsx";

const location = (id: number, over: Partial<LocationAnswer> = {}): LocationAnswer => ({
  id,
  connection: "companyFolders",
  path: `Suppliers/Tarrin S-2004/Orders/PO-${id}`,
  location: `/srv/papers/Suppliers/Tarrin S-2004/Orders/PO-${id}`,
  record: { company: "MF", type: "purchaseOrder", key: `PO-${id}`, title: "Order" },
  documents: 3,
  bytes: 2048,
  checkedAt: "2026-11-24T08:00:00Z",
  state: "stored",
  ...over,
});
let api: ReturnType<typeof fakeApi>;
afterEach(() => {
  cleanup();
  api.end();
});
function draw(items: readonly LocationAnswer[], next: string | null = null): void {
  api = fakeApi({ "/repository/locations": () => ({ items, total: items.length, next }) });
  renderOnPage(
    <NuqsTestingAdapter hasMemory>
      <Locations />
    </NuqsTestingAdapter>,
  );
}
const lastAsked = (): URLSearchParams => new URLSearchParams(api.asked.at(-1)?.split("?")[1]);

describe("Locations", () => {
  test("each folder has its record, its place, its documents, size and state", async () => {
    draw([location(1), location(2, { state: "outOfSync", documents: 0, bytes: 0, checkedAt: null })]);
    const [, first, second] = await screen.findAllByRole("row");
    expect(
      within(first as HTMLElement)
        .getByRole("link", { name: "PO-1" })
        .getAttribute("href"),
    ).toContain("PO-1");
    expect(first?.textContent).toContain("Suppliers › Tarrin S-2004 › Orders › PO-1");
    expect(first?.textContent).toContain("stored");
    expect(within(second as HTMLElement).getByText("out of sync").className).toContain("rust");
  });

  test("what narrows and what sorts is asked of the server", async () => {
    draw([location(1)]);
    await screen.findByText("PO-1");
    fireEvent.change(screen.getByLabelText("State"), { target: { value: "outOfSync" } });
    await waitFor(() => expect(lastAsked().get("state")).toBe("outOfSync"));
    fireEvent.change(screen.getByLabelText("Record type"), { target: { value: "purchaseOrder" } });
    await waitFor(() => expect(lastAsked().get("type")).toBe("purchaseOrder"));
    fireEvent.change(screen.getByLabelText("Folder, number or name"), { target: { value: "tarrin" } });
    await waitFor(() => expect(lastAsked().get("q")).toBe("tarrin"));
    fireEvent.click(screen.getByRole("button", { name: "Documents" }));
    await waitFor(() => expect(lastAsked().get("sort")).toBe("documents"));
    expect(screen.getByRole("columnheader", { name: "Documents" }).getAttribute("aria-sort")).toBe("ascending");
    fireEvent.click(screen.getByRole("button", { name: "Documents" }));
    await waitFor(() => expect(lastAsked().get("order")).toBe("down"));
  });

  test("there is a way to the next hundred and back, and narrowing begins at the first again", async () => {
    draw([location(1)], "100");
    fireEvent.click(await screen.findByRole("button", { name: "More" }));
    await waitFor(() => expect(lastAsked().get("cursor")).toBe("100"));
    expect(screen.getByRole("button", { name: "Before" })).toBeTruthy();
    fireEvent.change(screen.getByLabelText("State"), { target: { value: "stored" } });
    await waitFor(() => expect(lastAsked().get("cursor")).toBe("0"));
  });

  test("says so when nothing fits", async () => {
    draw([]);
    expect(await screen.findByText("No folders match")).toBeTruthy();
  });
});
