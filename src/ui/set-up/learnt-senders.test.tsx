import { cleanup, fireEvent, screen, waitFor } from "@testing-library/react";
import type { LearntDetail } from "#server/matching/learnt.ts";
import { fakeApi, renderOnPage } from "../kit/test-page.tsx";
import { OurNumbers } from "./our-numbers.tsx";
import { LearntSenders } from "./learnt-senders.tsx";

const line = { sender: "account:7", name: "Tarrin Marine Fuels", papers: 12, fields: 4, right: 0.83, lastAt: "2026-11-18T10:00:00Z" };
const detail: LearntDetail = {
  ...line,
  places: [
    { field: "documentNumber", label: "kennung", relation: "left", page: "first", times: 12 },
    { field: "total", label: null, relation: null, page: "last", times: 3 },
  ],
  from: [{ code: "AC-000001", title: "Supplier invoice 77-3108" }],
};
let api: ReturnType<typeof fakeApi>;
const sent: unknown[] = [];
afterEach(() => {
  cleanup();
  api.end();
  sent.length = 0;
});
function draw(items: readonly (typeof line)[]): void {
  api = fakeApi({
    "/settings/learnt/account": (_b, address) => {
      if (!address.endsWith("/forget")) return detail;
      sent.push("forget");
      return { forgotten: 15 };
    },
    "/settings/learnt-file": (body) => {
      sent.push(body);
      return { taken: 2, passedOver: 1 };
    },
    "/settings/learnt": () => ({ items }),
  });
  renderOnPage(<LearntSenders />);
}

describe("What was learnt", () => {
  test("says how it begins when there is nothing yet", async () => {
    draw([]);
    expect(await screen.findByText(/Nothing yet/)).toBeTruthy();
  });
  test("lists senders, and shows where one keeps its fields and from which documents; it can be forgotten", async () => {
    draw([line]);
    expect(await screen.findByText("83 %")).toBeTruthy();
    fireEvent.click(screen.getByRole("button", { name: "Tarrin Marine Fuels" }));
    expect(await screen.findByText("to the right of “kennung”")).toBeTruthy();
    expect(screen.getByText("always at the same position, on the last page")).toBeTruthy();
    expect(screen.getByRole("link", { name: "Supplier invoice 77-3108" }).getAttribute("href")).toBe("/documents/AC-000001");
    fireEvent.click(screen.getByRole("button", { name: "Delete" }));
    await waitFor(() => expect(sent).toEqual(["forget"]));
    expect(await screen.findByText(/was deleted/)).toBeTruthy();
  });
  test("takes a file in and says what was passed over", async () => {
    draw([line]);
    const text = '{"format":"amber-clip-layouts","version":1,"senders":[]}';
    const file = Object.assign(new File([text], "layouts.json"), { text: () => Promise.resolve(text) });
    fireEvent.change(await screen.findByLabelText("Layout file"), { target: { files: [file] } });
    expect(await screen.findByText("2 places imported")).toBeTruthy();
    expect(screen.getByText(/1 already exist/)).toBeTruthy();
  });
});

test("VAT numbers of our own companies are saved however they are parted; nothing is offered before something was changed", async () => {
  api = fakeApi({
    "/settings/our-numbers": (body) => {
      if (body) sent.push(body);
      return { items: [{ company: "MF", name: "Merrowick Ferries Ltd", vatNumbers: ["GB700061346"] }] };
    },
  });
  renderOnPage(<OurNumbers />);
  const field = await screen.findByLabelText("Merrowick Ferries Ltd");
  expect(screen.queryByRole("button", { name: "Save" })).toBeNull();
  fireEvent.change(field, { target: { value: "GB700061346; DE123456789 ," } });
  fireEvent.click(screen.getByRole("button", { name: "Save" }));
  await waitFor(() => expect(sent).toEqual([{ numbers: { MF: ["GB700061346", "DE123456789"] } }]));
});
