import { cleanup, fireEvent, screen, waitFor } from "@testing-library/react";
import type { ReachAnswer } from "#server/reach/reach.ts";
import { fakeApi, renderOnPage } from "../kit/test-page.tsx";
import { named, ReachChoice } from "./reach-choice.tsx";
import { ReachQuestion } from "./reach-question.tsx";

const clip = { company: "MF", type: "supplierAccount", key: "S-2004" };
const answer = (over: Partial<ReachAnswer> = {}): ReachAnswer => ({
  type: "supplierAccount",
  key: "S-2004",
  reach: [],
  isUsual: true,
  along: [{ type: "purchaseOrder", count: 412 }],
  total: 0,
  isWide: false,
  words: "",
  named: [],
  ...over,
});
const wide = answer({
  reach: ["purchaseOrder"],
  total: 412,
  isWide: true,
  words: "412 purchase orders",
  named: [{ type: "purchaseOrder", key: "PO-6127", title: "Bunkering" }],
});
let api: ReturnType<typeof fakeApi>;
afterEach(() => {
  cleanup();
  api.end();
});

describe("Choosing who else sees a document", () => {
  test("says so in one line, and offers the types along the chain with their numbers", async () => {
    api = fakeApi({ "/clips/reach": () => ({ items: [answer()] }) });
    const changes: (readonly string[])[] = [];
    renderOnPage(<ReachChoice documentType="supplierInvoice" clip={clip} onChange={(r) => changes.push(r)} />);
    fireEvent.click(await screen.findByRole("button", { name: /not shown on other records/ }));
    fireEvent.click(screen.getByRole("checkbox", { name: /Purchase orders 412/ }));
    expect(changes).toEqual([["purchaseOrder"]]);
    expect(screen.queryByRole("checkbox", { name: /Supplier accounts/ })).toBeNull();
  });

  test("warns where it would be many, and can be taken back", async () => {
    api = fakeApi({ "/clips/reach": () => ({ items: [wide] }) });
    const changes: (readonly string[])[] = [];
    renderOnPage(
      <ReachChoice documentType="supplierInvoice" clip={{ ...clip, reach: ["purchaseOrder"] }} onChange={(r) => changes.push(r)} />,
    );
    fireEvent.click(await screen.findByRole("button", { name: /also shown on 412 purchase orders/ }));
    expect(screen.getByText(/That is a lot: PO-6127 and 411 more/)).toBeTruthy();
    fireEvent.click(screen.getByRole("checkbox", { name: /Purchase orders/ }));
    expect(changes).toEqual([[]]);
    expect(named(answer({ named: [], total: 0 }))).toBe("");
  });

  test("says which types will see it where there are none yet, and names types that have none", async () => {
    api = fakeApi({ "/clips/reach": () => ({ items: [answer({ along: [], reach: ["purchaseOrder"] })] }) });
    renderOnPage(<ReachChoice documentType="supplierInvoice" clip={clip} onChange={() => {}} />);
    fireEvent.click(await screen.findByRole("button", { name: /also shown on purchase orders to come/ }));
    expect(screen.getByRole("checkbox", { name: /Purchase orders none yet/ })).toBeTruthy();
  });
});

test("The question says on how many and on which, and has three ways out", async () => {
  api = fakeApi({ "/clips/reach": () => ({ items: [wide] }) });
  const done: string[] = [];
  renderOnPage(
    <ReachQuestion
      about={{ documentType: "supplierInvoice", clips: [clip] }}
      isBusy={false}
      onShow={() => done.push("show")}
      onOwnOnly={() => done.push("own")}
      onHide={() => done.push("hide")}
    />,
  );
  await waitFor(() => expect(screen.getByText("412 purchase orders")).toBeTruthy());
  expect(screen.getByText("PO-6127")).toBeTruthy();
  expect(screen.getByText(/and 411 more/)).toBeTruthy();
  for (const name of ["Show on all", "On its own record only", "Cancel"]) fireEvent.click(screen.getByRole("button", { name }));
  expect(done).toEqual(["show", "own", "hide"]);
});
