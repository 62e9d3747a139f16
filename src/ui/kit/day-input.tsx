"use client";
import { useRef, useState } from "react";
import { Form } from "react-bootstrap";
import { Calendar3 } from "react-bootstrap-icons";
import { parseTypedDay } from "#core/shared/parse-day.ts";
import { dayText, todayText } from "./words.ts";

/**
 * A day: typed in any usual way (18.11.26, 18 Nov, today) or picked from the browser's calendar, and always shown as 18 Nov 2026.
 * `value` is YYYY-MM-DD, empty, or what was typed when that is no day: then `wrong` says so and nothing typed is lost.
 */
export function DayInput({
  id,
  label,
  value,
  wrong = false,
  small = false,
  placeholder = "",
  onChange,
}: {
  id?: string;
  label?: string;
  value: string;
  wrong?: boolean;
  small?: boolean;
  placeholder?: string;
  onChange: (value: string) => void;
}) {
  const [typing, setTyping] = useState<string | null>(null);
  const calendar = useRef<HTMLInputElement>(null);
  const settle = (): void => {
    if (typing === null) return;
    setTyping(null);
    onChange(parseTypedDay(typing, todayText()) ?? typing.trim());
  };
  return (
    <div className="day-input">
      <Form.Control
        id={id}
        size={small ? "sm" : undefined}
        aria-label={label}
        placeholder={placeholder}
        autoComplete="off"
        value={typing ?? dayText(value)}
        isInvalid={wrong}
        aria-invalid={wrong}
        onFocus={(e) => e.target.select()}
        onChange={(e) => setTyping(e.target.value)}
        onBlur={settle}
        onKeyDown={(e) => {
          if (e.key === "Enter") settle();
          if (e.key === "Escape") setTyping(null);
        }}
      />
      <button
        type="button"
        tabIndex={-1}
        aria-label={`Calendar${label ? `: ${label}` : ""}`}
        onClick={() => calendar.current?.showPicker()}
      >
        <Calendar3 size={13} aria-hidden="true" />
      </button>
      <input
        ref={calendar}
        type="date"
        tabIndex={-1}
        aria-hidden="true"
        value={/^\d{4}-\d{2}-\d{2}$/.test(value) ? value : ""}
        onChange={(e) => onChange(e.target.value)}
      />
    </div>
  );
}

/** A day to filter by: what is no day counts as none. */
export function DayFilter({ label, value, onChange }: { label: string; value: string; onChange: (day: string | null) => void }) {
  return (
    <div style={{ width: 140, maxWidth: "100%" }}>
      <DayInput
        small
        label={label}
        placeholder={label}
        value={value}
        onChange={(day) => onChange(/^\d{4}-\d{2}-\d{2}$/.test(day) ? day : null)}
      />
    </div>
  );
}
