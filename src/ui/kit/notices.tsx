"use client";
import { createContext, type ReactNode, useCallback, useContext, useEffect, useMemo, useRef, useState } from "react";
import { Button, CloseButton, Toast } from "react-bootstrap";
import { sentenceOf, wordsOf } from "./api.ts";
import { Link } from "./link.tsx";

/** How long a notice with an undo stays, ms: the ten seconds that are promised. */
const STAYS_MS = 10_000;

interface Notice {
  readonly id: number;
  readonly text: string;
  readonly more?: string | undefined;
  /** Where `more` leads to. */
  readonly href?: string | undefined;
  readonly tone: "going" | "done" | "wrong";
  readonly undo?: (() => void) | undefined;
  /** What can be done about it. */
  readonly act?: { readonly label: string; readonly run: () => void } | undefined;
}
interface DoneOptions {
  readonly more?: string;
  readonly href?: string;
  readonly undo?: () => void;
}
/** A notice of something whose end is not known yet. */
export interface UnderWay {
  /** It is done: the notice says so in its place, unless it was closed. */
  done(text: string, options?: DoneOptions): void;
  /** How far it has come, in its place. */
  say(text: string): void;
  close(): void;
}
interface Say {
  done(text: string, options?: DoneOptions): void;
  /** Says that something is under way; it stays until its end is said. */
  begin(text: string, options?: { readonly undo: () => void }): UnderWay;
  wrong(error: unknown): void;
  /** Says that something was not done, beneath it why, and offers what can be done about it. */
  notDone(text: string, error: unknown, act: Notice["act"]): void;
  /** Undoes what was done last, if that is still offered. */
  undoLast(): void;
}
const NoticesContext = createContext<Say | null>(null);

/** What happened, said in the corner, with undo. Errors stay until they are closed. */
export function Notices({ children }: { children: ReactNode }) {
  const [notices, setNotices] = useState<readonly Notice[]>([]);
  const next = useRef(1);
  const latest = useRef<readonly Notice[]>([]);
  useEffect(() => {
    latest.current = notices;
  });
  const close = useCallback((id: number) => setNotices((all) => all.filter((n) => n.id !== id)), []);
  const add = useCallback(
    (notice: Omit<Notice, "id">): number => {
      const id = next.current++;
      setNotices((all) => [...all.slice(-2), { ...notice, id }]);
      if (notice.tone === "done") setTimeout(() => close(id), STAYS_MS);
      return id;
    },
    [close],
  );
  const say = useMemo<Say>(
    () => ({
      done: (text, options) => void add({ ...options, text, tone: "done" }),
      begin: (text, options) => {
        const id = add({ ...options, text, tone: "going" });
        return {
          done: (now, doneOptions) => {
            setNotices((all) => all.map((n) => (n.id === id ? { ...doneOptions, id, text: now, tone: "done" } : n)));
            setTimeout(() => close(id), STAYS_MS);
          },
          say: (now) => setNotices((all) => all.map((n) => (n.id === id ? { ...n, text: now } : n))),
          close: () => close(id),
        };
      },
      wrong: (error) => {
        const words = wordsOf(error);
        add({ text: words.title, more: words.next, tone: "wrong" });
      },
      notDone: (text, error, act) => void add({ text, more: sentenceOf(error), tone: "wrong", act }),
      undoLast: () => {
        const last = latest.current.findLast((n) => n.undo);
        if (last) {
          close(last.id);
          last.undo?.();
        }
      },
    }),
    [add, close],
  );
  return (
    <NoticesContext.Provider value={say}>
      {children}
      <div className="toasts d-grid gap-2" role="status" aria-live="polite">
        {notices.map((n) => (
          <Toast key={n.id} onClose={() => close(n.id)} className={`w-100 is-${n.tone}`}>
            <Toast.Body className="d-flex align-items-start gap-2">
              <div className="flex-grow-1" style={{ minWidth: 0, overflowWrap: "anywhere" }}>
                <div className={n.tone === "wrong" ? "problem fw-bold" : "fw-bold"}>{n.text}</div>
                {n.more ? <div className="text-2 small notice-more">{n.href ? <Link href={n.href}>{n.more}</Link> : n.more}</div> : null}
              </div>
              {n.act ? (
                <Button
                  size="sm"
                  variant="plain"
                  onClick={() => {
                    close(n.id);
                    n.act?.run();
                  }}
                >
                  {n.act.label}
                </Button>
              ) : null}
              {n.undo ? (
                <Button
                  size="sm"
                  variant="plain"
                  onClick={() => {
                    close(n.id);
                    n.undo?.();
                  }}
                >
                  Undo <kbd>Z</kbd>
                </Button>
              ) : null}
              <CloseButton aria-label="Close" onClick={() => close(n.id)} />
            </Toast.Body>
          </Toast>
        ))}
      </div>
    </NoticesContext.Provider>
  );
}

/** Says what happened. */
export function useNotices(): Say {
  const say = useContext(NoticesContext);
  if (!say) throw new Error("Notices is missing above");
  return say;
}
