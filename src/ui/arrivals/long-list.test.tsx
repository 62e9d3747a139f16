import { QueryClientProvider } from "@tanstack/react-query";
import { act, cleanup, fireEvent, render, renderHook, screen, waitFor } from "@testing-library/react";
import type { ReactNode } from "react";
import { renderOnPage, testClient } from "../kit/test-page.tsx";
import { ArrivalRow } from "./arrival-row.tsx";
import { testArrival } from "./test-arrival.ts";
import { useArrivalActs } from "./use-arrival-acts.ts";
import { lookEvery, useWaiting } from "./use-waiting.ts";

afterEach(cleanup);

describe("A long list of what waits", () => {
  const filter = { queue: "", source: "", show: "all", sort: "newest", group: "none", mine: false, q: "", at: null } as const;
  const TOTAL = 600;
  test("is looked at as often as it is short", () => {
    expect([0, 1, 4, 8, 100].map(lookEvery)).toEqual([5000, 5000, 5000, 10_000, 125_000]);
  });
  test("lets many go at once, and a look that had begun does not bring them back", async () => {
    let isHeld = false;
    const waiting: (() => void)[] = [];
    globalThis.fetch = (async (address: string) => {
      const from = Number(new URL(address, "http://x").searchParams.get("cursor") ?? 0);
      if (isHeld) await new Promise<void>((go) => waiting.push(go));
      const items = Array.from({ length: 100 }, (_, i) => ({ ...testArrival, id: `a${from + i}` }));
      return Response.json({ items, next: from + 100 < TOTAL ? String(from + 100) : null, total: TOTAL });
    }) as typeof fetch;
    const client = testClient();
    const { result } = renderHook(() => useWaiting(filter, undefined, new Set()), {
      wrapper: ({ children }: { children: ReactNode }) => <QueryClientProvider client={client}>{children}</QueryClientProvider>,
    });
    await waitFor(() => expect(result.current.items).toHaveLength(100));
    expect(result.current.isLong).toBe(false);
    for (let many = 200; many <= TOTAL; many += 100) {
      act(() => result.current.more());
      await waitFor(() => expect(result.current.items).toHaveLength(many));
    }
    expect(result.current.isLong).toBe(true);
    isHeld = true;
    act(() => void client.invalidateQueries({ queryKey: ["arrivals"] }));
    await waitFor(() => expect(waiting).toHaveLength(1));
    act(() => result.current.takeOut(Array.from({ length: 450 }, (_, i) => `a${i}`)));
    await waitFor(() => expect(result.current.items).toHaveLength(150));
    await act(async () => waiting[0]?.());
    expect(result.current.items[0]?.id).toBe("a450");
    expect(result.current.total).toBe(150);
  });
});

test("a change to more than one call takes says how far it has come", async () => {
  const waiting: (() => void)[] = [];
  globalThis.fetch = (async (_: string, { body }: { body: string }) => {
    await new Promise<void>((go) => waiting.push(go));
    return Response.json({ done: (JSON.parse(body) as { ids: string[] }).ids.length, failures: [] });
  }) as unknown as typeof fetch;
  const ids = Array.from({ length: 1200 }, (_, i) => `a${i}`);
  function Acts() {
    const acts = useArrivalActs({ refresh: () => {}, drop: () => {}, goOnFrom: () => {} });
    return <button onClick={() => acts.setAside(ids, "not needed", false)}>All</button>;
  }
  renderOnPage(<Acts />);
  fireEvent.click(screen.getByRole("button", { name: "All" }));
  for (const [call, told] of ["0", "500", "1,000"].entries()) {
    expect(await screen.findByText(`Setting aside: ${told} of 1,200 documents`)).toBeTruthy();
    await waitFor(() => expect(waiting).toHaveLength(call + 1));
    await act(async () => waiting[call]?.());
  }
  expect(await screen.findByText("1,200 documents set aside")).toBeTruthy();
  expect(screen.queryByText(/^Setting aside/)).toBeNull();
});

test("a document whose picture does not come shows what kind it is", () => {
  const { container } = render(
    <ArrivalRow
      arrival={testArrival}
      asPicture={false}
      chosen={false}
      ticked={false}
      anyTicked={false}
      recordLabel={null}
      myId="p1"
      onOpen={() => {}}
      onTick={() => {}}
    />,
  );
  const picture = container.querySelector(".thumb img");
  expect(picture).not.toBeNull();
  if (picture) fireEvent.error(picture);
  expect(container.querySelector(".thumb img")).toBeNull();
  expect(container.querySelector(".thumb svg")).not.toBeNull();
});
