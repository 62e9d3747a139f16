import { cleanup, fireEvent, screen, waitFor } from "@testing-library/react";
import type { ConnectionAnswer } from "#server/repository/manage-connections.ts";
import { fakeApi, renderOnPage } from "../kit/test-page.tsx";
import { Connections } from "./connections-list.tsx";

const connection = (over: Partial<ConnectionAnswer> = {}): ConnectionAnswer => ({
  key: "companyFolders",
  label: "Company folders",
  kind: "disk",
  settings: {},
  hasSecret: false,
  options: { isWatched: true, furtherPlaces: "none", keepLocalDays: null, takesChanges: true },
  setUp: null,
  recordTypes: ["vessel"],
  folders: 1200,
  documents: 3400,
  scannedAt: null,
  scanned: null,
  powers: { rename: true, renameFolders: true, atomicReplace: true, changeFeed: true, locks: false, links: true },
  location: "/srv/papers",
  ...over,
});
let api: ReturnType<typeof fakeApi>;
let sent: [string, unknown][] = [];
afterEach(() => {
  cleanup();
  api.end();
  sent = [];
});
function draw(items: readonly ConnectionAnswer[]): void {
  const keep = (what: string) => (body: unknown) => {
    sent.push([what, body]);
    return {};
  };
  api = fakeApi({
    "/connections": () => ({ items }),
    "/connections/companyFolders": keep("companyFolders"),
    "/connections/connection2": keep("connection2"),
    "/connections/connection2/drop": keep("drop"),
    "/settings/repository": (body) => (body === null ? { provesPerMinute: 60 } : keep("rate")(body)),
  });
  renderOnPage(<Connections />);
}

describe("The connections to repositories", () => {
  test("stand with their folders and documents, and lead to their set-up; another gets a key that nobody has", async () => {
    draw([connection(), connection({ key: "connection2", label: "Quay archive", kind: "webdav" })]);
    expect((await screen.findByRole("link", { name: "Quay archive" })).getAttribute("href")).toBe("/set-up/connections/connection2");
    expect(screen.getAllByText("3,400")).toHaveLength(2);
    expect(screen.getByRole("link", { name: /Add connection/ }).getAttribute("href")).toBe("/set-up/connections/connection3");
  });

  test("are changed one choice at a time", async () => {
    draw([connection()]);
    fireEvent.click(await screen.findByLabelText("Company folders is scanned"));
    fireEvent.change(screen.getByLabelText("Changed files of Company folders"), { target: { value: "ask" } });
    fireEvent.change(screen.getByLabelText("Additional folders on Company folders"), { target: { value: "link" } });
    fireEvent.change(screen.getByLabelText("Local copies of Company folders"), { target: { value: "30" } });
    await waitFor(() => expect(sent).toHaveLength(4));
    expect(sent.map(([, body]) => (body as { options: unknown }).options)).toEqual([
      { isWatched: false },
      { takesChanges: false },
      { furtherPlaces: "link" },
      { keepLocalDays: 30 },
    ]);
  });

  test("that know no links offer none", async () => {
    draw([connection({ kind: "bucket", powers: { ...connection().powers, links: false } as ConnectionAnswer["powers"] })]);
    const choice = await screen.findByLabelText("Additional folders on Company folders");
    expect([...choice.querySelectorAll("option")].map((o) => o.value)).toEqual(["none", "pointer"]);
  });

  test("whose set-up is not finished can be forgotten; one that cannot be reached says so", async () => {
    const away = { folders: 0, files: 0, fresh: 0, changed: 0, gone: 0, moved: 0, tookMs: 1, why: "repository-unreachable" };
    draw([
      connection({ scannedAt: "2026-11-25T08:00:00Z", scanned: away }),
      connection({ key: "connection2", label: "Half", setUp: { step: "check", recordTypes: [], layout: "nested", job: null, checks: [] } }),
    ]);
    expect(await screen.findByText("unreachable")).toBeTruthy();
    fireEvent.click(screen.getByRole("button", { name: "Remove" }));
    await waitFor(() => expect(sent.map(([what]) => what)).toEqual(["drop"]));
  });

  test("the rate of proving again is set, and only when it is a number that may be", async () => {
    draw([connection()]);
    const rate = await screen.findByLabelText<HTMLInputElement>("Files verified again per minute");
    await waitFor(() => expect(screen.getByLabelText<HTMLInputElement>("Files verified again per minute").value).toBe("60"));
    fireEvent.blur(rate, { target: { value: "-5" } });
    fireEvent.blur(screen.getByLabelText("Files verified again per minute"), { target: { value: "200" } });
    await waitFor(() => expect(sent).toEqual([["rate", { provesPerMinute: 200 }]]));
  });
});
