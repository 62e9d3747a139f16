import { useCallback, useEffect, useRef, useState } from "react";
import type { Claim } from "#server/arrivals/claim.ts";
import { ApiProblem, apiSend } from "../kit/api.ts";

/** Who only looks in passing claims nothing, ms. */
const AFTER_MS = 1_200;
/** A claim is said again this often while one works on, ms; it ends by itself some time after the last. */
const AGAIN_MS = 40_000;

/**
 * Claims the arrival that is open, as long as it is, and lets go of it afterwards. Answers the name of somebody else who works on it, and a way to
 * take it over.
 */
export function useClaim(id: string | undefined, mayFile: boolean): { readonly other: string | null; readonly takeOver: () => void } {
  const [other, setOther] = useState<{ readonly id: string; readonly name: string } | null>(null);
  const mine = useRef<string | null>(null);
  const ask = useCallback(async (arrival: string, takeOver: boolean): Promise<void> => {
    try {
      await apiSend<Claim>("POST", `/arrivals/${arrival}/claim`, { takeOver });
      mine.current = arrival;
      setOther(null);
    } catch (error) {
      // Anything else (offline, filed meanwhile) shows where it matters: when one files.
      if (error instanceof ApiProblem && error.code === "claimed") setOther({ id: arrival, name: error.next.split(" · ")[0] ?? "" });
    }
  }, []);
  useEffect(() => {
    if (id === undefined || !mayFile) return;
    const first = setTimeout(() => void ask(id, false), AFTER_MS);
    const again = setInterval(() => void ask(id, false), AGAIN_MS);
    return () => {
      clearTimeout(first);
      clearInterval(again);
      if (mine.current === id) {
        mine.current = null;
        void apiSend("POST", `/arrivals/${id}/let-go`).catch(() => {});
      }
    };
  }, [id, mayFile, ask]);
  return { other: other !== null && other.id === id ? other.name : null, takeOver: () => id !== undefined && void ask(id, true) };
}
