"use client";
import { Button, Modal } from "react-bootstrap";
import { Dialog } from "../kit/dialog.tsx";
import { percentText } from "../kit/words.ts";
import { useMe } from "../people/me-context.tsx";

/** Asks for the document type before a document is filed with one that the program is not sure of. */
export function TypeQuestion({
  type,
  certainty,
  onConfirm,
  onChange,
  onHide,
}: {
  /** Key of the type in question; null while there is nothing to ask. */
  type: string | null;
  /** How certain the program is of it; null where it is only the usual type for the record. */
  certainty: number | null;
  onConfirm: () => void;
  /** The type is another one. */
  onChange: () => void;
  onHide: () => void;
}) {
  const { documentType } = useMe();
  const label = (documentType(type ?? "")?.label ?? "").toLowerCase();
  return (
    <Dialog show={type !== null} onHide={onHide} centered aria-labelledby="type-question">
      <Modal.Header closeButton>
        <h2 id="type-question">Is this document a {label}?</h2>
      </Modal.Header>
      <Modal.Body>
        {certainty === null
          ? "The page does not name a type. This is the usual one for this record."
          : `Suggested by the page, certainty ${percentText(certainty)}.`}
      </Modal.Body>
      <Modal.Footer>
        <Button variant="plain" onClick={onChange}>
          Choose another type
        </Button>
        <Button autoFocus onClick={onConfirm}>
          File as {label} <kbd>Enter</kbd>
        </Button>
      </Modal.Footer>
    </Dialog>
  );
}
