import { cleanup, fireEvent, screen, waitFor } from "@testing-library/react";
import { NuqsTestingAdapter } from "nuqs/adapters/testing";
import type { AutomaticFilingAnswer } from "#server/automatic-filing/manage.ts";
import type { WeightsAnswer } from "#server/matching/weights.ts";
import { SwitchedOff } from "../desk/switched-off.tsx";
import { fakeApi, renderOnPage } from "../kit/test-page.tsx";
import { Weights } from "../set-up/weights.tsx";
import { FiledScreen } from "./filed-screen.tsx";
import { AutomaticFilingSettings } from "./automatic-filing-settings.tsx";
import { whatItHadDecided } from "./held-back.ts";

const rule = (over: Partial<AutomaticFilingAnswer> = {}): AutomaticFilingAnswer => ({
  queue: "payables",
  documentType: "supplierInvoice",
  isOn: false,
  asked: 0.98,
  heldBack: 0.05,
  expected: { checked: 200, wouldFile: 160, right: 160, share: 0.8, precision: 1, bound: 0.9815 },
  may: "yes",
  needed: 149,
  filed: 0,
  waiting: 0,
  offWhy: null,
  ...over,
});
let api: ReturnType<typeof fakeApi>;
let sent: unknown[] = [];
afterEach(() => {
  cleanup();
  api.end();
  sent = [];
});
function answer(items: readonly AutomaticFilingAnswer[]): void {
  api = fakeApi({
    "/hands-free": (body) => {
      if (!body) return { items, historyMin: 30 };
      sent.push(body);
      return { isOn: (body as { isOn: boolean }).isOn };
    },
  });
}

describe("Hands-free filing in Set-up", () => {
  test("shows what is to be expected before it is switched on, and refuses what is not borne out", async () => {
    answer([rule()]);
    renderOnPage(<AutomaticFilingSettings />);
    fireEvent.click(await screen.findByRole("button", { name: "Change …" }));
    expect(screen.getByRole("dialog").textContent).toContain("160 of 160 correctly");
    expect(screen.getByRole("dialog").textContent).toContain("98.2 %");
    fireEvent.change(screen.getByLabelText("Required accuracy"), { target: { value: "99" } });
    expect(screen.getByText(/Too few were confirmed/).textContent).toContain("299 documents");
    expect(screen.getByRole<HTMLButtonElement>("button", { name: "Switch on" }).disabled).toBe(true);
    fireEvent.change(screen.getByLabelText("Required accuracy"), { target: { value: "97.5" } });
    fireEvent.click(screen.getByRole("button", { name: "Switch on" }));
    await waitFor(() =>
      expect(sent).toEqual([{ queue: "payables", documentType: "supplierInvoice", isOn: true, asked: 0.975, heldBack: 0.05 }]),
    );
  });
  test("too few documents, on, and switched off by itself are told apart", async () => {
    const offWhy = { bound: 0.91, asked: 0.95, wrong: 3, of: 102, at: "2026-11-20T10:00:00Z" };
    answer([
      rule({ expected: { checked: 3, wouldFile: 2, right: 2, share: 0.66, precision: 1, bound: 0.2 }, may: "too-few" }),
      rule({ documentType: "letter", isOn: true, filed: 7, waiting: 1 }),
      rule({ documentType: "mail", offWhy }),
    ]);
    renderOnPage(<AutomaticFilingSettings />);
    expect(await screen.findByText("off, too few documents")).toBeTruthy();
    expect(screen.getByText("on, 98.0 % required")).toBeTruthy();
    expect(screen.getByText("7 documents filed")).toBeTruthy();
    expect(screen.getByText("switched itself off 20 Nov 2026").title).toContain("3 of 102 were wrong");
    fireEvent.click(screen.getByRole("button", { name: "Switch off" }));
    await waitFor(() => expect(sent[0]).toMatchObject({ documentType: "letter", isOn: false }));
  });
  test("tells administrators on their desk that it has switched itself off, and nobody while it has not", async () => {
    answer([rule({ offWhy: { bound: 0.91, asked: 0.95, wrong: 3, of: 102, at: "2026-11-20T10:00:00Z" } })]);
    renderOnPage(<SwitchedOff />);
    const said = await screen.findByText("Automatic filing of supplier invoices in Payables was switched off.");
    expect(said.parentElement?.textContent).toContain("3 of the last 102 were wrong: at least 91.0 % right, 95.0 % is required.");
  });
});

describe("Filed hands-free", () => {
  const draw = (days: readonly object[], items: readonly object[]): void => {
    api = fakeApi({
      "/hands-free/papers": () => ({ days, items }),
      "/hands-free/undo": (body) => {
        sent.push(body);
        return { done: 1, failures: [] };
      },
    });
    renderOnPage(
      <NuqsTestingAdapter>
        <FiledScreen />
      </NuqsTestingAdapter>,
    );
  };
  test("says what belongs there when there is nothing", async () => {
    draw([], []);
    expect(await screen.findByText("Nothing was filed automatically")).toBeTruthy();
  });
  test("lists a day and takes it back in one go, asking first", async () => {
    const paper = {
      code: "AC-000001",
      title: "Supplier invoice 77",
      documentType: "supplierInvoice",
      queue: "payables",
      record: { company: "MF", type: "purchaseOrder", key: "PO-1", title: "x" },
      state: "filed",
      at: "2026-11-20T10:00:00Z",
    };
    draw([{ day: "2026-11-20", filed: 1, corrected: 1, undone: 0 }], [paper, { ...paper, code: "AC-000002", state: "corrected" }]);
    expect(await screen.findByText("corrected")).toBeTruthy();
    fireEvent.click(screen.getByRole("button", { name: "Take all 1 back" }));
    fireEvent.click(screen.getByRole("button", { name: "Take back" }));
    await waitFor(() => expect(sent).toEqual([{ day: "2026-11-20" }]));
  });
});

test("after a document of the sample is filed one is told what the program had decided", async () => {
  const answers = [{ differences: null }, { differences: [] }];
  api = fakeApi({ "/hands-free/papers/AC-000001": () => answers.shift() ?? { differences: ["record", "total"] } });
  expect(await whatItHadDecided("AC-000001")).toBe("Automatic filing would have done the same.");
  expect(await whatItHadDecided("AC-000001")).toBe("Automatic filing would have filed it differently: different record, different total.");
});

test("what evidence weighs can be looked at, learnt anew and taken back", async () => {
  const weights: WeightsAnswer = {
    version: 2,
    learnsFrom: 50,
    decided: 80,
    weights: [
      { kind: "totalFits", words: "total fits", starting: 2.8, now: 3.4 },
      { kind: "closed", words: "it is", starting: -1.6, now: -1.2 },
    ],
    versions: [{ version: 2, papers: 80, before: 0.41, after: 0.32, isUsed: true, madeAt: "2026-11-20T10:00:00Z" }],
  };
  api = fakeApi({
    "/settings/weights": (body) => {
      if (!body) return weights;
      sent.push(body);
      return { version: 1, isTaken: true, papers: 0 };
    },
  });
  renderOnPage(<Weights />);
  expect((await screen.findByText(/Version 2 is in use/)).textContent).toContain("80 documents");
  expect(screen.queryByText("total fits")).toBeNull();
  fireEvent.click(screen.getByRole("button", { name: "Show weights" }));
  expect(screen.getByRole("row", { name: /total fits/ }).textContent).toContain("2.83.4");
  fireEvent.click(screen.getByRole("button", { name: "Use initial weights" }));
  fireEvent.click(screen.getByRole("button", { name: "Learn again" }));
  await waitFor(() => expect(sent).toEqual(expect.arrayContaining([{ act: "use", version: 0 }])));
});
