"use client";
import { draggable, dropTargetForElements } from "@atlaskit/pragmatic-drag-and-drop/element/adapter";
import { type KeyboardEvent, useEffect, useId, useRef, useState } from "react";
import { Button, Dropdown, Form } from "react-bootstrap";
import { Plus, X } from "react-bootstrap-icons";
import { parsePattern } from "#core/filing-plan/name-pattern.ts";

export interface PatternField {
  readonly key: string;
  readonly label: string;
}

/** What can be done with a field's value, as it is written and as people say it. */
const formats = [
  { key: "", label: "unchanged" },
  { key: "year", label: "year" },
  { key: "month", label: "year and month" },
  { key: "day", label: "full date" },
  { key: "upper", label: "upper case" },
  { key: "lower", label: "lower case" },
  { key: "first 10", label: "first 10 characters" },
] as const;
/** Fields offered while one types. */
const OFFERED = 8;

/** A name pattern as picked fields or as text; both are the same thing, and one can change from one to the other at any time. */
export function PatternInput({
  id,
  value,
  fields,
  ending,
  label = "Parts of the name",
  onChange,
}: {
  id: string;
  value: string;
  fields: readonly PatternField[];
  ending?: string;
  label?: string;
  onChange: (value: string) => void;
}) {
  const parsed = parsePattern(value);
  const [asText, setAsText] = useState(false);
  const labelOf = (field: string): string => fields.find((f) => f.key === field)?.label ?? field;
  const pieces = pieceTexts(value);
  const shownAsText = asText || !parsed.ok;
  const put = (next: readonly string[]): void => onChange(next.join("").replace(/\s+/g, " ").trim());
  /** Puts one piece before another; blanks between fields stay. */
  const move = (from: number, to: number): void => {
    const tokens = tokensOf(pieces);
    const moved = tokens[from];
    if (moved === undefined || from === to) return;
    const rest = tokens.filter((_, i) => i !== from);
    put([...rest.slice(0, to), moved, ...rest.slice(to)].map((t, i) => (i === 0 ? t : ` ${t}`)));
  };
  const tokens = tokensOf(pieces);
  return (
    <div className="d-flex gap-2 align-items-start">
      {shownAsText ? (
        <PatternText
          id={id}
          value={value}
          fields={fields}
          wrong={parsed.ok ? null : Number(parsed.refusal.errors?.[0]?.path ?? 0)}
          onChange={onChange}
        />
      ) : (
        <div id={id} tabIndex={-1} className="form-control d-flex flex-wrap gap-1 align-items-center" role="group" aria-label={label}>
          {tokens.map((piece, i) =>
            piece.startsWith("{") ? (
              <Token
                key={`${i}${piece}`}
                piece={piece}
                index={i}
                group={id}
                labelOf={labelOf}
                fields={fields}
                onMove={move}
                onChange={(next) => put(tokens.map((t, n) => (n === i ? next : t)).map((t, n) => (n === 0 ? t : ` ${t}`)))}
                onRemove={() => put(tokens.filter((_, n) => n !== i).map((t, n) => (n === 0 ? t : ` ${t}`)))}
              />
            ) : (
              <span key={i} className="text-2" style={{ whiteSpace: "pre" }}>
                {piece}
              </span>
            ),
          )}
          {ending ? <span className="text-3">{ending}</span> : null}
          <Dropdown className="ms-auto">
            <Dropdown.Toggle as={Button} size="sm" variant="quiet" aria-label="Add a field">
              <Plus size={16} />
            </Dropdown.Toggle>
            <Dropdown.Menu style={{ maxHeight: 300, overflowY: "auto" }}>
              {fields.map((f) => (
                <Dropdown.Item as="button" type="button" key={f.key} onClick={() => onChange(`${value.trimEnd()} {${f.key}}`.trim())}>
                  {f.label}
                </Dropdown.Item>
              ))}
            </Dropdown.Menu>
          </Dropdown>
        </div>
      )}
      <Button size="sm" variant="quiet" aria-pressed={shownAsText} disabled={!parsed.ok} onClick={() => setAsText((t) => !t)}>
        {shownAsText ? "fields" : "text"}
      </Button>
    </div>
  );
}

/** One picked field: dragged to another place, or with Alt and the arrow keys; its menu says how its value is written. */
function Token({
  piece,
  index,
  group,
  labelOf,
  fields,
  onMove,
  onChange,
  onRemove,
}: {
  piece: string;
  index: number;
  group: string;
  labelOf: (field: string) => string;
  fields: readonly PatternField[];
  onMove: (from: number, to: number) => void;
  onChange: (piece: string) => void;
  onRemove: () => void;
}) {
  const element = useRef<HTMLSpanElement>(null);
  const [isOver, setIsOver] = useState(false);
  const act = useRef(onMove);
  useEffect(() => {
    act.current = onMove;
  });
  useEffect(() => {
    const at = element.current;
    if (!at) return;
    const endDrag = draggable({ element: at, getInitialData: () => ({ group, index }) });
    const endDrop = dropTargetForElements({
      element: at,
      canDrop: ({ source }) => source.data["group"] === group && source.data["index"] !== index,
      onDragEnter: () => setIsOver(true),
      onDragLeave: () => setIsOver(false),
      onDrop: ({ source }) => {
        setIsOver(false);
        act.current(Number(source.data["index"]), index);
      },
    });
    return () => {
      endDrag();
      endDrop();
    };
  }, [group, index]);
  const choices = piece.slice(1, -1).split("|");
  const [field = "", ...written] = (choices[0] ?? "").split(":").map((p) => p.trim());
  const words = choices
    .map((c) => {
      const [f = "", ...more] = c.split(":");
      return [labelOf(f.trim()), ...more].join(", ");
    })
    .join(" or ");
  const rest = choices
    .slice(1)
    .map((c) => `|${c}`)
    .join("");
  return (
    <span ref={element} className={`token ${isOver ? "is-over" : ""}`}>
      <Dropdown className="d-inline-block">
        <Dropdown.Toggle
          as="button"
          type="button"
          className="border-0 bg-transparent p-0 text-reset"
          aria-label={`${words}: format`}
          onKeyDown={(e: KeyboardEvent) => {
            if (!e.altKey || (e.key !== "ArrowLeft" && e.key !== "ArrowRight")) return;
            e.preventDefault();
            onMove(index, e.key === "ArrowLeft" ? Math.max(0, index - 1) : index + 1);
          }}
        >
          {words}
        </Dropdown.Toggle>
        <Dropdown.Menu>
          {formats.map((f) => (
            <Dropdown.Item
              as="button"
              type="button"
              key={f.key}
              active={(written[0] ?? "") === f.key}
              onClick={() => onChange(`{${field}${f.key === "" ? "" : `:${f.key}`}${rest}}`)}
            >
              {f.label}
            </Dropdown.Item>
          ))}
          <Dropdown.Divider />
          <Dropdown.Header>If empty</Dropdown.Header>
          <Dropdown.Item as="button" type="button" active={choices.length === 1} onClick={() => onChange(`{${choices[0] ?? ""}}`)}>
            nothing
          </Dropdown.Item>
          {fields.slice(0, 3).map((f) => (
            <Dropdown.Item as="button" type="button" key={f.key} onClick={() => onChange(`{${choices[0] ?? ""}|${f.key}}`)}>
              {f.label}
            </Dropdown.Item>
          ))}
        </Dropdown.Menu>
      </Dropdown>
      <button type="button" className="border-0 bg-transparent p-0 text-reset" aria-label={`Remove ${words}`} onClick={onRemove}>
        <X />
      </button>
    </span>
  );
}

/** The pattern as text: fields and formats are offered as one types, and the first mistake is pointed at. */
function PatternText({
  id,
  value,
  fields,
  wrong,
  onChange,
}: {
  id: string;
  value: string;
  fields: readonly PatternField[];
  /** Where the first mistake is, in characters; null when there is none. */
  wrong: number | null;
  onChange: (value: string) => void;
}) {
  const input = useRef<HTMLInputElement>(null);
  const list = useId();
  const [at, setAt] = useState<number | null>(null);
  const [chosen, setChosen] = useState(0);
  const offers = at === null ? [] : offersAt(value, at, fields);
  const take = (offer: Offer): void => {
    const next = value.slice(0, offer.from) + offer.text + value.slice(at ?? value.length);
    onChange(next);
    const end = offer.from + offer.text.length;
    setAt(null);
    requestAnimationFrame(() => input.current?.setSelectionRange(end, end));
  };
  return (
    <div className="flex-grow-1 position-relative" style={{ minWidth: 0 }}>
      <Form.Control
        id={id}
        ref={input}
        className="mono"
        value={value}
        isInvalid={wrong !== null}
        role="combobox"
        aria-expanded={offers.length > 0}
        aria-controls={list}
        aria-autocomplete="list"
        autoComplete="off"
        onChange={(e) => {
          onChange(e.target.value);
          setAt(e.target.selectionStart);
          setChosen(0);
        }}
        onBlur={() => setAt(null)}
        onKeyDown={(e) => {
          if (offers.length === 0) return;
          if (e.key === "ArrowDown" || e.key === "ArrowUp") {
            e.preventDefault();
            setChosen((c) => (c + (e.key === "ArrowDown" ? 1 : offers.length - 1)) % offers.length);
          } else if (e.key === "Enter" || e.key === "Tab") {
            const offer = offers[chosen];
            if (!offer) return;
            e.preventDefault();
            take(offer);
          } else if (e.key === "Escape") setAt(null);
        }}
        spellCheck={false}
      />
      {wrong !== null ? (
        <div className="mono problem pattern-mistake" aria-hidden="true">
          {" ".repeat(Math.min(wrong, value.length))}▲
        </div>
      ) : null}
      <div className="hits" role="listbox" id={list} aria-label="Fields and formats" hidden={offers.length === 0}>
        {offers.map((o, i) => (
          <div
            key={o.text}
            role="option"
            aria-selected={i === chosen}
            onMouseDown={(e) => {
              e.preventDefault();
              take(o);
            }}
          >
            <span className="mono">{o.shown}</span> <span className="text-2">{o.label}</span>
          </div>
        ))}
      </div>
    </div>
  );
}

interface Offer {
  readonly from: number;
  readonly text: string;
  readonly shown: string;
  readonly label: string;
}

/** What fits at a place of the text: fields after a brace, formats after a colon. */
export function offersAt(value: string, at: number, fields: readonly PatternField[]): readonly Offer[] {
  const open = value.lastIndexOf("{", at - 1);
  if (open === -1 || value.slice(open, at).includes("}")) return [];
  const inside = value.slice(open + 1, at);
  const closing = value[at] === "}" ? "" : "}";
  const colon = Math.max(inside.lastIndexOf(":"), -1);
  const bar = inside.lastIndexOf("|");
  if (colon > bar) {
    const typed = inside.slice(colon + 1).trim();
    return formats
      .filter((f) => f.key !== "" && f.key.startsWith(typed))
      .map((f) => ({ from: open + 1 + colon + 1, text: `${f.key}${closing}`, shown: f.key, label: f.label }));
  }
  const typed = inside
    .slice(bar + 1)
    .trim()
    .toLowerCase();
  return fields
    .filter((f) => f.key.toLowerCase().startsWith(typed) || f.label.toLowerCase().startsWith(typed))
    .slice(0, OFFERED)
    .map((f) => ({ from: open + 1 + bar + 1, text: `${f.key}${closing}`, shown: f.key, label: f.label }));
}

/** The pattern's pieces as they are written: text and {fields}. */
function pieceTexts(value: string): readonly string[] {
  return value.split(/(\{[^{}]*\})/).filter((p) => p !== "");
}

/** Pieces without the blanks between them: each is one thing that can be moved. */
function tokensOf(pieces: readonly string[]): readonly string[] {
  return pieces.map((p) => (p.startsWith("{") ? p : p.trim())).filter((p) => p !== "");
}
