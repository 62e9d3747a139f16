"use client";
import { type ReactNode, useState } from "react";
import { Button, Form, Modal } from "react-bootstrap";
import { Dialog } from "../kit/dialog.tsx";

/** Asks for one line or one choice. */
export function AskDialog({
  title,
  label,
  start,
  options,
  action,
  note,
  onHide,
  onAnswer,
}: {
  title: string;
  label: string;
  start: string;
  /** To choose from; without it a line is typed. */
  options?: readonly { readonly value: string; readonly label: string }[];
  action: string;
  note?: ReactNode;
  onHide: () => void;
  onAnswer: (answer: string) => void;
}) {
  const [value, setValue] = useState(start);
  return (
    <Dialog show onHide={onHide} centered size="sm" aria-labelledby="ask-title">
      <Form
        onSubmit={(e) => {
          e.preventDefault();
          if (value.trim() !== "") onAnswer(value.trim());
        }}
      >
        <Modal.Header closeButton>
          <h2 id="ask-title">{title}</h2>
        </Modal.Header>
        <Modal.Body>
          {note}
          <Form.Label htmlFor="ask-value">{label}</Form.Label>
          {options ? (
            <Form.Select id="ask-value" autoFocus value={value} onChange={(e) => setValue(e.target.value)}>
              <option value="">Choose …</option>
              {options.map((o) => (
                <option key={o.value} value={o.value}>
                  {o.label}
                </option>
              ))}
            </Form.Select>
          ) : (
            <Form.Control
              id="ask-value"
              autoFocus
              value={value}
              maxLength={240}
              onChange={(e) => setValue(e.target.value)}
              onFocus={(e) => e.target.select()}
            />
          )}
        </Modal.Body>
        <Modal.Footer>
          <Button variant="plain" onClick={onHide}>
            Cancel
          </Button>
          <Button type="submit" disabled={value.trim() === ""}>
            {action}
          </Button>
        </Modal.Footer>
      </Form>
    </Dialog>
  );
}
