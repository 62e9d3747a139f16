"use client";
import { useState } from "react";
import { Button, Form } from "react-bootstrap";
import { parseTypedDay } from "#core/shared/parse-day.ts";
import { DayInput } from "../kit/day-input.tsx";
import { todayText } from "../kit/words.ts";
import { TypeChoice } from "./type-choice.tsx";

/** Asks for one more document on one record. */
export function AddItem({
  start = "",
  onAdd,
  onCancel,
}: {
  start?: string;
  onAdd: (label: string, documentTypes: readonly string[], dueOn: string | null) => void;
  onCancel: () => void;
}) {
  const [label, setLabel] = useState(start);
  const [types, setTypes] = useState<readonly string[]>([]);
  const [due, setDue] = useState("");
  const day = due === "" ? null : parseTypedDay(due, todayText());
  const wrongDay = due !== "" && day === null;
  return (
    <Form
      className="item-panel d-flex flex-wrap gap-2 align-items-end"
      onSubmit={(e) => {
        e.preventDefault();
        if (label.trim() !== "" && types.length > 0 && !wrongDay) onAdd(label.trim(), types, day);
      }}
      onKeyDown={(e) => {
        if (e.key === "Escape") onCancel();
      }}
    >
      <Form.Group controlId="item-label">
        <Form.Label className="small mb-0">Document required</Form.Label>
        <Form.Control size="sm" autoFocus maxLength={60} value={label} onChange={(e) => setLabel(e.target.value)} style={{ width: 240 }} />
      </Form.Group>
      <div>
        <div className="small">Document type</div>
        <TypeChoice value={types} label="Document type" onChange={setTypes} />
      </div>
      <div style={{ width: 150 }}>
        <label className="small mb-0" htmlFor="item-due">
          Due
        </label>
        <DayInput id="item-due" small value={due} wrong={wrongDay} placeholder="no due date" onChange={setDue} />
      </div>
      <Button size="sm" type="submit" disabled={label.trim() === "" || types.length === 0 || wrongDay}>
        Add item
      </Button>
      <Button size="sm" variant="quiet" onClick={onCancel}>
        Cancel
      </Button>
    </Form>
  );
}
