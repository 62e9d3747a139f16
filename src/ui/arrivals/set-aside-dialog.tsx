"use client";
import { useState } from "react";
import { Button, Form, Modal } from "react-bootstrap";
import { Dialog } from "../kit/dialog.tsx";
import { countText } from "../kit/words.ts";

const reasons = ["Not needed", "Advertising", "Sent by mistake", "A duplicate"] as const;

/** Asks why documents are set aside. They stay in the register and can be restored. */
export function SetAsideDialog({
  count,
  onHide,
  onSet,
}: {
  count: number;
  onHide: () => void;
  onSet: (reason: string, junk: boolean) => void;
}) {
  const [reason, setReason] = useState<string>(reasons[0]);
  const [junk, setJunk] = useState(false);
  return (
    <Dialog show={count > 0} onHide={onHide} centered size="sm" aria-labelledby="set-aside-title">
      <Form
        onSubmit={(e) => {
          e.preventDefault();
          onSet(reason.trim() || reasons[0], junk);
          setJunk(false);
        }}
      >
        <Modal.Header closeButton>
          <h2 id="set-aside-title">Set {countText(count, "document")} aside?</h2>
        </Modal.Header>
        <Modal.Body>
          <p className="text-2">It stays in the register and can be restored.</p>
          <Form.Label htmlFor="set-aside-reason">Why</Form.Label>
          <Form.Control
            id="set-aside-reason"
            list="set-aside-reasons"
            autoFocus
            value={reason}
            maxLength={300}
            onChange={(e) => setReason(e.target.value)}
            onFocus={(e) => e.target.select()}
          />
          <datalist id="set-aside-reasons">
            {reasons.map((r) => (
              <option key={r}>{r}</option>
            ))}
          </datalist>
          <Form.Check
            className="mt-3"
            id="set-aside-junk"
            label="Junk: mark future mail from this sender"
            checked={junk}
            onChange={(e) => setJunk(e.target.checked)}
          />
        </Modal.Body>
        <Modal.Footer>
          <Button variant="plain" onClick={onHide}>
            Cancel
          </Button>
          <Button type="submit">Set aside</Button>
        </Modal.Footer>
      </Form>
    </Dialog>
  );
}
