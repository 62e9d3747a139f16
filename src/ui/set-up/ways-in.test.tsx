import { cleanup, fireEvent, screen, waitFor } from "@testing-library/react";
import type { QueueAnswer } from "#server/ways-in/queue-ways.ts";
import { fakeApi, renderOnPage } from "../kit/test-page.tsx";
import { MailIn } from "./mail-in.tsx";
import { WatchedFolders } from "./watched-folders.tsx";

const queue = (over: Partial<QueueAnswer> = {}): QueueAnswer => ({
  key: "payables",
  label: "Payables",
  address: "payables@papers.example",
  keeps: "messageAndParts",
  senders: [],
  folder: "/srv/watched/payables",
  watchAfter: null,
  codesBy: null,
  leavesOutBlanks: false,
  limits: {},
  refused: [],
  ...over,
});
let api: ReturnType<typeof fakeApi>;
let sent: unknown[] = [];
afterEach(() => {
  cleanup();
  api.end();
  sent = [];
});
function draw(element: React.ReactElement, items: readonly QueueAnswer[], answer: () => unknown = () => ({})): void {
  const keep = (body: unknown) => {
    sent.push(body);
    return answer();
  };
  api = fakeApi({ "/settings/queues": () => ({ items }), "/settings/queues/payables": keep, "/settings/queues/payables/folder": keep });
  renderOnPage(element);
}

describe("Mail in", () => {
  test("shows each queue's address, and sets what is kept of a message at once", async () => {
    draw(<MailIn />, [queue({ senders: ["@orrin.example"] })]);
    expect(await screen.findByText("payables@papers.example")).toBeTruthy();
    fireEvent.change(screen.getByLabelText("Parts kept from mail to Payables"), { target: { value: "partsOnly" } });
    await waitFor(() => expect(sent).toEqual([{ keeps: "partsOnly", senders: ["@orrin.example"] }]));
  });
  test("takes senders however they are written one after the other, and offers to save only what was changed", async () => {
    draw(<MailIn />, [queue()]);
    const field = await screen.findByLabelText("Who may send to Payables");
    expect(screen.queryByRole("button", { name: "Save" })).toBeNull();
    fireEvent.change(field, { target: { value: " jo@orrin.example;@tarrin.example,\n@b.example " } });
    fireEvent.click(screen.getByRole("button", { name: "Save" }));
    await waitFor(() =>
      expect(sent).toEqual([{ keeps: "messageAndParts", senders: ["jo@orrin.example", "@tarrin.example", "@b.example"] }]),
    );
  });
  test("what is refused stays written", async () => {
    draw(<MailIn />, [queue()], () =>
      Response.json({ title: "Something is not right", status: 422, code: "bad-input", errors: [] }, { status: 422 }),
    );
    const field = await screen.findByLabelText<HTMLInputElement>("Who may send to Payables");
    fireEvent.change(field, { target: { value: "nonsense" } });
    fireEvent.click(screen.getByRole("button", { name: "Save" }));
    expect(await screen.findByText(/not right/i)).toBeTruthy();
    expect(field.value).toBe("nonsense");
  });
  test("says plainly that no mail is taken in where no port is set", async () => {
    draw(<MailIn />, [queue({ address: null })]);
    expect(await screen.findByText(/No mail port is configured/)).toBeTruthy();
  });
});

describe("Watched folders", () => {
  test("are switched on with what becomes of the original, and off again", async () => {
    draw(<WatchedFolders />, [queue()]);
    const choice = await screen.findByLabelText("After import from the folder of Payables");
    fireEvent.change(choice, { target: { value: "done" } });
    expect(await screen.findByText("The folder of Payables is watched")).toBeTruthy();
    fireEvent.change(choice, { target: { value: "" } });
    await waitFor(() => expect(sent.length).toBeLessThanOrEqual(2));
    expect(sent[0]).toEqual({ after: "done" });
  });
  test("name what is not taken, with the reason, and how many others there are", async () => {
    const refused = [1, 2, 3, 4, 5].map((n) => ({ path: `scan-${n}.pdf`, why: "too-large" }));
    draw(<WatchedFolders />, [queue({ watchAfter: "keep", refused })]);
    expect(await screen.findByText(/^scan-1.pdf: /)).toBeTruthy();
    expect(screen.queryByText(/scan-4/)).toBeNull();
    expect(screen.getByText("and 2 others")).toBeTruthy();
  });
});
