/** @jest-environment jsdom */
import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { act, cleanup, fireEvent, render, renderHook, waitFor } from "@testing-library/react";
import type { ReactNode } from "react";
import { ArrivalRow } from "./arrival-row.tsx";
import { testArrival } from "./test-arrival.ts";
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
    const client = new QueryClient();
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

test("a paper whose picture does not come shows what kind it is", () => {
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
