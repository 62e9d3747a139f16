import { cleanup, fireEvent, screen, waitFor } from "@testing-library/react";
import type { ProbeStep } from "#server/ports/repository.ts";
import type { ConnectionAnswer } from "#server/repository/manage-connections.ts";
import { TopSlotProvider } from "../frame/top-slot.tsx";
import { fakeApi, renderOnPage, went } from "../kit/test-page.tsx";
import { ConnectionScreen } from "./connection-screen.tsx";

const connection: ConnectionAnswer = {
  key: "quay",
  label: "Quay archive",
  kind: "webdav",
  settings: { address: "https://files.example/dav", root: "Documents", user: "amber" },
  hasSecret: true,
  options: { isWatched: true, furtherPlaces: "none", keepLocalDays: null, takesChanges: true },
  setUp: null,
  recordTypes: [],
  folders: 0,
  documents: 0,
  scannedAt: null,
  scanned: null,
  powers: null,
  location: null,
};
const steps = (over: Partial<Record<ProbeStep["step"], Partial<ProbeStep>>> = {}): ProbeStep[] =>
  (["reach", "signIn", "write", "readBack", "rename", "remove", "clock", "space"] as const).map((step) => ({
    step,
    outcome: "ok",
    ...(step === "space" ? { value: 2048 } : {}),
    ...over[step],
  }));
const job = { state: "done", done: 2, failed: 0, total: 2, failures: [] };
let api: ReturnType<typeof fakeApi>;
let sent: [string, unknown][] = [];
afterEach(() => {
  cleanup();
  api.end();
  went.length = 0;
  sent = [];
});
interface World {
  readonly items?: readonly ConnectionAnswer[];
  readonly probe?: readonly ProbeStep[];
  readonly save?: () => unknown;
  readonly rules?: readonly unknown[];
  readonly job?: typeof job | (Omit<typeof job, "failures"> & { failures: readonly { what: string; why: string }[] });
}
function draw(world: World = {}, key = "quay"): void {
  let items = world.items ?? [];
  const keep = (what: string, answer: (body: unknown) => unknown) => (body: unknown) => {
    sent.push([what, body]);
    return answer(body);
  };
  api = fakeApi({
    "/connections": () => ({ items }),
    "/connections/quay": keep("save", () => {
      const answer = world.save?.();
      if (answer === undefined)
        items = [{ ...connection, setUp: { step: "check", recordTypes: [], layout: "nested", job: null, checks: [] } }];
      return answer ?? {};
    }),
    "/connections/quay/check": () => ({ steps: world.probe ?? steps(), passed: true }),
    "/connections/quay/set-up": keep("set-up", () => ({})),
    "/folder-rules": () => ({ rules: world.rules ?? [], counts: { purchaseOrder: 12 } }),
    "/move-plans": keep("draw", () => ({ id: "p9" })),
    "/folder-rules/purchaseOrder": keep("rule", () => ({})),
    "/folder-rules/purchaseOrder/preview": () => ({
      errors: [],
      records: 12,
      samples: [{ key: "PO-1", segments: ["Orders", "PO-1"] }],
      clashCount: 1,
      tooLong: 0,
    }),
    "/repository/provision": keep("provision", () => ({ job: "11111111-1111-4111-8111-111111111111" })),
    "/jobs": () => world.job ?? job,
  });
  renderOnPage(
    <TopSlotProvider>
      <ConnectionScreen connectionKey={key} />
    </TopSlotProvider>,
  );
}
const address = () => screen.getByRole<HTMLInputElement>("textbox", { name: "Address" });
const next = (name = "Next") => fireEvent.click(screen.getByRole("button", { name }));

describe("Setting a connection up", () => {
  test("goes from its kind over its address to a check, whose every line has its result", async () => {
    draw();
    fireEvent.click(await screen.findByRole("radio", { name: /WebDAV server/ }));
    next();
    fireEvent.change(await screen.findByLabelText("Display name"), { target: { value: "Quay archive" } });
    fireEvent.change(address(), { target: { value: "https://files.example/dav" } });
    fireEvent.change(screen.getByLabelText("Password"), { target: { value: "hush" } });
    next("Save and check");
    expect(await screen.findByText("Free space")).toBeTruthy();
    expect(screen.getAllByLabelText("fine").length).toBe(8);
    expect(sent[0]).toEqual([
      "save",
      { label: "Quay archive", kind: "webdav", settings: { address: "https://files.example/dav" }, secret: "hush" },
    ]);
    expect(screen.getByRole<HTMLButtonElement>("button", { name: "Next" }).disabled).toBe(false);
  });

  test.each([
    ["repository-full", "The repository is full. Free some space there."],
    ["repository-refused", "The repository refuses access. The account needs write permission."],
    ["repository-unreachable", "The repository cannot be reached. Check the address and that the server runs."],
  ])("%s at one line of the check: what to do, and no way on", async (why, words) => {
    draw({
      items: [{ ...connection, setUp: { step: "check", recordTypes: [], layout: "nested", job: null, checks: [] } }],
      probe: steps({ write: { outcome: "failed", why }, readBack: { outcome: "skipped" } }),
    });
    fireEvent.click(await screen.findByRole("button", { name: "Check again" }));
    expect(await screen.findByText(words)).toBeTruthy();
    expect(screen.getByLabelText("failed")).toBeTruthy();
    expect(screen.getByLabelText("not checked")).toBeTruthy();
    expect(screen.getByRole<HTMLButtonElement>("button", { name: "Next" }).disabled).toBe(true);
  });

  test("going back before anything was saved asks for nothing", async () => {
    draw();
    fireEvent.click(await screen.findByRole("radio", { name: /WebDAV server/ }));
    next();
    await screen.findByLabelText("Display name");
    next("Back");
    expect(await screen.findByRole("radio", { name: /WebDAV server/ })).toBeTruthy();
    expect(sent).toEqual([]);
  });

  test("a wrong address stands at its field, and nothing is lost", async () => {
    draw({
      save: () =>
        Response.json(
          {
            title: "Something is not right",
            detail: "Put the marked values right and try again.",
            status: 422,
            code: "bad-input",
            errors: [{ path: "settings.address", message: "must be an address" }],
          },
          { status: 422 },
        ),
    });
    fireEvent.click(await screen.findByRole("radio", { name: /WebDAV server/ }));
    next();
    fireEvent.change(await screen.findByLabelText("Display name"), { target: { value: "Quay" } });
    fireEvent.change(address(), { target: { value: "files" } });
    next("Save and check");
    expect(await screen.findByText("must be an address")).toBeTruthy();
    expect(address().value).toBe("files");
  });

  test("of one in use the password is never shown, and kept when nothing is typed", async () => {
    draw({ items: [connection] });
    const password = await screen.findByLabelText<HTMLInputElement>("Password");
    expect(password.value).toBe("");
    expect(password.placeholder).toContain("saved");
    next("Save and check");
    await waitFor(() => expect(sent[0]?.[0]).toBe("save"));
    expect(sent[0]?.[1]).not.toHaveProperty("secret");
  });

  test("is taken up again where it was left, and makes the folders of the chosen types", async () => {
    draw({
      items: [{ ...connection, setUp: { step: "layout", recordTypes: ["purchaseOrder"], layout: "flat", job: null, checks: [] } }],
      job: { ...job, failed: 1, failures: [{ what: "PO-7 Order", why: "the place would be too long" }] },
    });
    expect((await screen.findByRole("radio", { name: /Flat by type/ })).getAttribute("aria-checked")).toBe("true");
    next();
    expect(await screen.findByText("Orders › PO-1")).toBeTruthy();
    expect(screen.getByText(/1 name is shared/)).toBeTruthy();
    next("Save rules and create folders");
    expect(await screen.findByText("2 folders created, 1 not")).toBeTruthy();
    expect(screen.getByText("the place would be too long")).toBeTruthy();
    const rule = sent.find(([what]) => what === "rule")?.[1] as { rule: { connection: string; inside: unknown } };
    expect(rule.rule).toMatchObject({ connection: "quay", inside: null, rootFolder: "Purchase orders" });
    fireEvent.click(screen.getByRole("button", { name: "Retry" }));
    await waitFor(() => expect(sent.at(-1)?.[1]).toMatchObject({ again: "11111111-1111-4111-8111-111111111111" }));
  });

  test("of a type that stood elsewhere what would move is seen at the end", async () => {
    const rule = {
      kind: "passing",
      connection: "companyFolders",
      inside: null,
      rootFolder: "Orders",
      groupedBy: null,
      folderName: "{key}",
      tellApart: null,
      variants: [],
      subFolders: null,
      fileName: "{title}",
      fileNames: {},
    };
    draw({
      items: [{ ...connection, setUp: { step: "preview", recordTypes: ["purchaseOrder"], layout: "flat", job: null, checks: [] } }],
      rules: [{ recordType: "purchaseOrder", version: 3, rule }],
    });
    expect(await screen.findByText(/Purchase orders are stored on another connection/)).toBeTruthy();
    next("Save rules and create folders");
    expect(await screen.findByText("2 folders created")).toBeTruthy();
    next("Show moves");
    await waitFor(() => expect(went).toEqual(["/filing-plan/moves/p9"]));
    expect(sent.at(-1)).toEqual(["draw", { outOfStep: ["purchaseOrder"] }]);
  });

  test("can be left for later: what was chosen is kept first", async () => {
    draw({ items: [{ ...connection, setUp: { step: "types", recordTypes: [], layout: "nested", job: null, checks: [] } }] });
    fireEvent.click(await screen.findByLabelText(/Purchase orders \(12\)/));
    next();
    await screen.findByText("Folder layout");
    fireEvent.click(screen.getByRole("button", { name: "Finish later" }));
    await waitFor(() => expect(went).toEqual(["/set-up"]));
    expect(sent).toEqual([["set-up", { setUp: { step: "layout", recordTypes: ["purchaseOrder"], layout: "nested", job: null } }]]);
  });

  test("without record types it is only connected", async () => {
    draw({ items: [{ ...connection, setUp: { step: "types", recordTypes: [], layout: "nested", job: null, checks: [] } }] });
    await screen.findByText("Which record types are stored here?");
    next("Connect only");
    await waitFor(() => expect(went).toEqual(["/set-up"]));
    expect(sent).toEqual([["set-up", { setUp: null }]]);
  });
});
