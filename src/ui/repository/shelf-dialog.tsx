"use client";
import { useMutation } from "@tanstack/react-query";
import { useState } from "react";
import { Button, Form, Modal } from "react-bootstrap";
import { Dialog } from "../kit/dialog.tsx";
import { apiSend } from "../kit/api.ts";
import { useNotices } from "../kit/notices.tsx";
import { useMe } from "../people/me-context.tsx";

/** The folder of shelves that are in no other. */
export const TOP = "Shelves";

/** Makes a shelf: its name, its company, and whether it is confidential. */
export function ShelfDialog({
  at,
  connections,
  onHide,
  onMade,
}: {
  at: { readonly connection: string; readonly path: string } | null;
  /** Where a shelf that is in no other may stand. */
  connections: readonly { readonly key: string; readonly label: string }[];
  onHide: () => void;
  onMade: () => void;
}) {
  const { me, company } = useMe();
  const notices = useNotices();
  const [name, setName] = useState("");
  const [of, setOf] = useState(company ?? me.companies[0]?.code ?? "");
  const [isConfidential, setConfidential] = useState(false);
  const [elsewhere, setElsewhere] = useState<string | null>(null);
  /** A shelf within another stands where that one does. */
  const isTop = at?.path === TOP;
  const connection = (isTop ? elsewhere : null) ?? at?.connection ?? "";
  const make = useMutation({
    mutationFn: () =>
      apiSend("POST", "/repository/shelves", {
        connection,
        path: `${at?.path ?? ""}/${name}`,
        company: of,
        isConfidential,
      }),
    onSuccess: () => {
      notices.done(`Shelf ${name} created`);
      setName("");
      setElsewhere(null);
      onMade();
    },
    onError: notices.wrong,
  });
  return (
    <Dialog show={at !== null} onHide={onHide} centered aria-labelledby="shelf-title">
      <Form
        onSubmit={(e) => {
          e.preventDefault();
          make.mutate();
        }}
      >
        <Modal.Header closeButton>
          <h2 id="shelf-title">New shelf</h2>
        </Modal.Header>
        <Modal.Body>
          <p className="text-2">Inside {at?.path.split("/").join(" › ")}.</p>
          <Form.Group controlId="shelf-name" className="mb-3">
            <Form.Label>Name</Form.Label>
            <Form.Control autoFocus value={name} onChange={(e) => setName(e.target.value)} placeholder="Minutes" />
          </Form.Group>
          {isTop && connections.length > 1 ? (
            <Form.Group controlId="shelf-connection" className="mb-3">
              <Form.Label>Connection</Form.Label>
              <Form.Select value={connection} onChange={(e) => setElsewhere(e.target.value)}>
                {connections.map((c) => (
                  <option key={c.key} value={c.key}>
                    {c.label}
                  </option>
                ))}
              </Form.Select>
            </Form.Group>
          ) : null}
          <Form.Group controlId="shelf-company" className="mb-3">
            <Form.Label>Company</Form.Label>
            <Form.Select value={of} onChange={(e) => setOf(e.target.value)}>
              {me.companies.map((c) => (
                <option key={c.code} value={c.code}>
                  {c.name}
                </option>
              ))}
            </Form.Select>
          </Form.Group>
          <Form.Check
            id="shelf-confidential"
            label="Confidential: only for people who may see confidential documents"
            checked={isConfidential}
            onChange={(e) => setConfidential(e.target.checked)}
          />
        </Modal.Body>
        <Modal.Footer>
          <Button variant="plain" onClick={onHide}>
            Cancel
          </Button>
          <Button type="submit" disabled={name.trim() === "" || make.isPending}>
            Create shelf
          </Button>
        </Modal.Footer>
      </Form>
    </Dialog>
  );
}
