import { cleanup, fireEvent, render, screen } from "@testing-library/react";
import type { ArrivalAnswer } from "#server/arrivals/list-arrivals.ts";
import { SamePaper } from "./same-paper.tsx";

afterEach(cleanup);
const said: string[] = [];
function draw(over: Partial<ArrivalAnswer>): void {
  said.length = 0;
  const arrival = { duplicates: [], twin: null, ...over } as unknown as ArrivalAnswer;
  render(<SamePaper arrival={arrival} onSetAside={(reason) => said.push(reason)} onVersion={() => {}} onApart={() => {}} />);
}
const filed = (code: string) => ({ code, title: `Invoice ${code}`, kind: "same", similarity: 1 }) as const;

describe("A document that is here already", () => {
  test("is said with the document that has it, and set aside as its duplicate", () => {
    draw({ duplicates: [filed("AC-000001"), filed("AC-000002"), filed("AC-000003")] });
    expect(screen.getByRole("link").getAttribute("href")).toBe("/documents/AC-000001");
    expect(screen.getByText(/and 2 others/)).toBeTruthy();
    fireEvent.click(screen.getByRole("button", { name: "Set this document aside" }));
    expect(said).toEqual(["Duplicate of AC-000001"]);
  });
  test("or with the one that came in first and waits", () => {
    draw({ twin: { id: "t1", fileName: "first.pdf", kind: "same", similarity: 1, receivedAt: "2026-11-25T08:00:00Z" } });
    expect(screen.getByRole("link", { name: "first.pdf" }).getAttribute("href")).toBe("/arrivals?at=t1");
    fireEvent.click(screen.getByRole("button", { name: "Set this document aside" }));
    expect(said).toEqual(["Duplicate of a waiting document"]);
  });
  test("says nothing of one that is here once", () => {
    draw({});
    expect(screen.queryByRole("region")).toBeNull();
  });
});
