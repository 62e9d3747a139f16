import { useCallback, useEffect, useRef } from "react";
import type { Answered, Asked } from "./work.ts";

type Wish = Asked extends infer A ? (A extends unknown ? Omit<A, "id"> : never) : never;
type AnswerTo<K> = Extract<Answered, { kind: K }>;

/** The worker that finds and straightens pages. It ends with the screen. */
export function usePageWorker(): <K extends Asked["kind"]>(wish: Extract<Wish, { kind: K }>) => Promise<AnswerTo<K>> {
  const worker = useRef<Worker | null>(null);
  const waiting = useRef(new Map<number, { readonly answer: (value: Answered) => void; readonly fail: (error: Error) => void }>());
  const nextId = useRef(1);
  useEffect(() => {
    const all = waiting.current;
    return () => {
      worker.current?.terminate();
      worker.current = null;
      all.clear();
    };
  }, []);
  return useCallback(<K extends Asked["kind"]>(wish: Extract<Wish, { kind: K }>) => {
    if (!worker.current) {
      const made = new Worker(new URL("./capture.worker.ts", import.meta.url), { type: "module" });
      made.onmessage = (event: MessageEvent<Answered>) => {
        const asked = waiting.current.get(event.data.id);
        waiting.current.delete(event.data.id);
        asked?.answer(event.data);
      };
      made.onerror = () => {
        for (const asked of waiting.current.values()) asked.fail(new Error("The picture could not be processed"));
        waiting.current.clear();
      };
      worker.current = made;
    }
    const id = nextId.current++;
    return new Promise<AnswerTo<K>>((resolve, reject) => {
      waiting.current.set(id, {
        answer: (value) => {
          if (value.kind === wish.kind) resolve(value as AnswerTo<K>);
        },
        fail: reject,
      });
      worker.current?.postMessage({ ...wish, id });
    });
  }, []);
}
