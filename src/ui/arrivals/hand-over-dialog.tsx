"use client";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { Button, Form, Modal } from "react-bootstrap";
import type { HandOverTargets } from "#server/arrivals/hand-over.ts";
import { Dialog } from "../kit/dialog.tsx";
import { apiGet } from "../kit/api.ts";
import { countText } from "../kit/words.ts";

/** To whom, as the dialog answers it. */
export interface HandOverWish {
  readonly person?: string;
  readonly queue?: string;
  readonly word: string;
  /** Name of the person or queue, for saying what was done. */
  readonly whom: string;
}

/** Asks to whom documents are handed over, and with what word. */
export function HandOverDialog({ count, onHide, onHand }: { count: number; onHide: () => void; onHand: (wish: HandOverWish) => void }) {
  const [to, setTo] = useState("");
  const [word, setWord] = useState("");
  const targets = useQuery({
    queryKey: ["handOverTargets"],
    enabled: count > 0,
    staleTime: 60_000,
    queryFn: ({ signal }) => apiGet<HandOverTargets>("/arrivals/hand-over", signal),
  });
  const person = targets.data?.people.find((p) => `person ${p.id}` === to);
  const queue = targets.data?.queues.find((q) => `queue ${q.key}` === to);
  return (
    <Dialog show={count > 0} onHide={onHide} centered size="sm" aria-labelledby="hand-over-title">
      <Form
        onSubmit={(e) => {
          e.preventDefault();
          if (person) onHand({ person: person.id, word: word.trim(), whom: person.name });
          else if (queue) onHand({ queue: queue.key, word: word.trim(), whom: queue.label });
        }}
      >
        <Modal.Header closeButton>
          <h2 id="hand-over-title">Assign {countText(count, "document")}</h2>
        </Modal.Header>
        <Modal.Body>
          <Form.Label htmlFor="hand-over-to">To</Form.Label>
          <Form.Select id="hand-over-to" autoFocus value={to} onChange={(e) => setTo(e.target.value)} className="mb-3">
            <option value="">Choose …</option>
            <optgroup label="Queues">
              {targets.data?.queues.map((q) => (
                <option key={q.key} value={`queue ${q.key}`}>
                  {q.label}
                </option>
              ))}
            </optgroup>
            <optgroup label="People">
              {targets.data?.people.map((p) => (
                <option key={p.id} value={`person ${p.id}`}>
                  {p.name}
                </option>
              ))}
            </optgroup>
          </Form.Select>
          <Form.Label htmlFor="hand-over-word">Message</Form.Label>
          <Form.Control
            id="hand-over-word"
            value={word}
            maxLength={300}
            onChange={(e) => setWord(e.target.value)}
            placeholder="What they should know"
          />
        </Modal.Body>
        <Modal.Footer>
          <Button variant="plain" onClick={onHide}>
            Cancel
          </Button>
          <Button type="submit" disabled={!person && !queue}>
            Assign
          </Button>
        </Modal.Footer>
      </Form>
    </Dialog>
  );
}
