"use client";
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { type Ref, type RefObject, useDeferredValue, useId, useImperativeHandle, useLayoutEffect, useRef, useState } from "react";
import { Form } from "react-bootstrap";
import type { LookupHit } from "#server/records/look-up.ts";
import { apiGet, queryOf, wordsOf } from "../kit/api.ts";
import { Icon } from "../kit/icon.tsx";
import { amountText, dayText } from "../kit/words.ts";
import { useMe } from "../people/me-context.tsx";

export interface LookUpHandle {
  focus(): void;
}

const named = (record: { readonly type: string; readonly key: string } | undefined): string | undefined =>
  record && `${record.type}:${record.key}`;

/** Height of the list where there is room for all of it, and the least that it is drawn with, px. */
const LIST_HEIGHT = 340;
const LIST_LEAST = 140;
/** Kept free between the list and the edge of the window, px. */
const EDGE = 12;

/** Where a list below a field has room in the window: its height in px, and whether it opens upwards. */
function useRoom(input: RefObject<HTMLInputElement | null>, open: boolean): { readonly height: number; readonly isParent: boolean } {
  const [room, setRoom] = useState({ height: LIST_HEIGHT, isParent: false });
  useLayoutEffect(() => {
    if (!open) return;
    const measure = (): void => {
      const box = input.current?.getBoundingClientRect();
      if (!box) return;
      const [below, parent] = [window.innerHeight - box.bottom - EDGE, box.top - EDGE];
      const isParent = below < LIST_HEIGHT && parent > below;
      setRoom({ height: Math.max(LIST_LEAST, Math.min(LIST_HEIGHT, isParent ? parent : below)), isParent });
    };
    measure();
    window.addEventListener("resize", measure);
    window.addEventListener("scroll", measure, true);
    return () => {
      window.removeEventListener("resize", measure);
      window.removeEventListener("scroll", measure, true);
    };
  }, [input, open]);
  return room;
}

/**
 * Finds a record while one types: key, title or any field, `*` for anything, small typing errors forgiven; recent ones when nothing is typed.
 * Arrows and Enter choose. `above` narrows it to what sits beneath a record chosen before.
 */
export function LookUp({
  onChoose,
  onSeeking,
  company,
  type,
  parent,
  near,
  placeholder = "Number, name or any field",
  handle,
}: {
  onChoose: (hit: LookupHit) => void;
  /** Somebody chose before the answer was there: it is sought (true), and then it was chosen, or nothing was (false). */
  onSeeking?: (isSought: boolean) => void;
  company?: string | undefined;
  type?: string | undefined;
  parent?: { readonly type: string; readonly key: string } | undefined;
  /** Records of this one are offered first, all others after them. */
  near?: { readonly type: string; readonly key: string } | undefined;
  placeholder?: string;
  handle?: Ref<LookUpHandle>;
}) {
  const { recordType } = useMe();
  const id = useId();
  const input = useRef<HTMLInputElement>(null);
  const [typed, setTyped] = useState("");
  const [open, setOpen] = useState(false);
  const room = useRoom(input, open);
  const [at, setAt] = useState(0);
  const q = useDeferredValue(typed.trim());
  useImperativeHandle(
    handle,
    () => ({
      focus: () => {
        input.current?.focus();
        input.current?.select();
      },
    }),
    [],
  );
  const client = useQueryClient();
  const lookupQuery = (asked: string) => ({
    queryKey: ["lookup", asked, company, type, parent?.type, parent?.key, near?.type, near?.key],
    queryFn: ({ signal }: { signal: AbortSignal }) =>
      apiGet<{ items: LookupHit[] }>(
        `/records/lookup${queryOf({ q: asked, company, type, parent: named(parent), near: named(near), limit: 12 })}`,
        signal,
      ),
  });
  const found = useQuery({ ...lookupQuery(q), enabled: open, placeholderData: (before) => before });
  const items = found.data?.items ?? [];
  // Whether the list answers what stands in the field now, and not what stood there a moment ago.
  const isAnswered = found.isSuccess && !found.isPlaceholderData && q === typed.trim();
  const choose = (hit: LookupHit | undefined): void => {
    if (!hit) return;
    onChoose(hit);
    setTyped("");
    setOpen(false);
    setAt(0);
    input.current?.blur();
  };
  /** Who types fast presses Enter before the answer is there: it chooses from that answer, never from an older one. */
  const enter = async (): Promise<void> => {
    if (isAnswered) return choose(items[at]);
    const asked = typed.trim();
    onSeeking?.(true);
    // The next key is meant for the page already, not for the field.
    input.current?.blur();
    const answer = await client.fetchQuery(lookupQuery(asked)).catch(() => null);
    const hit = input.current?.value.trim() === asked ? answer?.items[0] : undefined;
    if (hit) choose(hit);
    else if (input.current?.value.trim() === asked) input.current.focus();
    onSeeking?.(false);
  };
  return (
    <div className="position-relative">
      <Form.Control
        ref={input}
        value={typed}
        placeholder={placeholder}
        autoComplete="off"
        spellCheck={false}
        role="combobox"
        aria-label="Look up a record"
        aria-expanded={open}
        aria-controls={`${id}-hits`}
        aria-activedescendant={open && items[at] ? `${id}-${at}` : undefined}
        aria-autocomplete="list"
        onFocus={() => setOpen(true)}
        onBlur={() => setTimeout(() => document.activeElement !== input.current && setOpen(false), 120)}
        onChange={(e) => {
          setTyped(e.target.value);
          setOpen(true);
          setAt(0);
        }}
        onKeyDown={(e) => {
          if (e.key === "ArrowDown") {
            e.preventDefault();
            setAt((n) => Math.min(n + 1, items.length - 1));
          } else if (e.key === "ArrowUp") {
            e.preventDefault();
            setAt((n) => Math.max(n - 1, 0));
          } else if (e.key === "Enter") {
            e.preventDefault();
            void enter();
          } else if (e.key === "Escape" && (open || typed !== "")) {
            // Closes the list, or empties the field, and nothing around it: the dialog it stands in keeps what was typed.
            e.preventDefault();
            e.stopPropagation();
            e.nativeEvent.stopImmediatePropagation();
            if (open) setOpen(false);
            else setTyped("");
          }
        }}
      />
      {open ? (
        <div
          className={`hits ${room.isParent ? "is-above" : ""}`}
          style={{ maxHeight: room.height }}
          role="listbox"
          id={`${id}-hits`}
          aria-label="Records"
        >
          {q === "" && items.length > 0 ? (
            <div className="px-2 pt-1 pb-1 small text-3" role="presentation">
              Recently used
            </div>
          ) : null}
          {items[0]?.corrected ? (
            <div className="px-2 pt-1 pb-1 small text-3" role="presentation">
              No exact match. Similar:
            </div>
          ) : null}
          {items.map((hit, i) => (
            <div
              key={hit.id}
              id={`${id}-${i}`}
              role="option"
              aria-selected={i === at}
              onPointerDown={(e) => {
                e.preventDefault();
                choose(hit);
              }}
              onPointerMove={() => setAt(i)}
            >
              <div className="d-flex gap-2 align-items-center">
                <Icon name={recordType(hit.type)?.icon ?? ""} size={14} />
                <strong className="mono">{hit.key}</strong>
                <span className="text-3 small ms-auto">
                  {recordType(hit.type)?.label}
                  {company === undefined ? ` · ${hit.company}` : ""}
                </span>
              </div>
              <div className="text-truncate">{hit.title}</div>
              <div className="text-2 small text-truncate">
                {[hit.parent?.title, dayText(hit.date), amountText(hit.amount, hit.currency), hit.status].filter(Boolean).join(" · ")}
              </div>
            </div>
          ))}
          {found.isError ? <div className="p-2 problem">{wordsOf(found.error).title}</div> : null}
          {found.isSuccess && items.length === 0 ? (
            <div className="p-2 text-2">No record found{parent ? ` of ${parent.key}` : ""}. Try part of its number or name.</div>
          ) : null}
          {found.isPending ? <div className="p-2 text-3">Searching …</div> : null}
        </div>
      ) : null}
    </div>
  );
}
