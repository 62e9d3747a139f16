"use client";
import { useMutation } from "@tanstack/react-query";
import { useRouter } from "next/navigation";
import { Button, Form, Modal } from "react-bootstrap";
import { useState } from "react";
import { ArrowDown } from "react-bootstrap-icons";
import { Dialog } from "../kit/dialog.tsx";
import { PlaceSteps } from "../arrivals/place-steps.tsx";
import { savePreferences } from "../kit/api.ts";
import { countText } from "../kit/words.ts";

/** Asks once before something is moved: from where to where, and whether to ask again. */
export function MoveQuestion({
  move,
  isBusy,
  onMove,
  onHide,
}: {
  move: { readonly from: string; readonly to: string; readonly documents: number; readonly isFile: boolean } | null;
  isBusy: boolean;
  onMove: () => void;
  onHide: () => void;
}) {
  const router = useRouter();
  const [never, setNever] = useState(false);
  const keep = useMutation({
    mutationFn: () => savePreferences({ asksBeforeMove: false }),
    onSuccess: () => router.refresh(),
  });
  const split = (path: string): { folder: string[]; fileName: string } => {
    const steps = path.split("/");
    return move?.isFile ? { folder: steps.slice(0, -1), fileName: steps.at(-1) ?? "" } : { folder: steps, fileName: "" };
  };
  return (
    <Dialog show={move !== null} onHide={onHide} centered aria-labelledby="move-title">
      <Modal.Header closeButton>
        <h2 id="move-title">It moves in the repository</h2>
      </Modal.Header>
      <Modal.Body>
        {move ? (
          <>
            {move.isFile ? null : <p className="mb-2">{countText(move.documents, "document")} with it.</p>}
            <div className="text-2">
              <PlaceSteps {...split(move.from)} />
            </div>
            <ArrowDown className="my-2" aria-label="becomes" />
            <PlaceSteps {...split(move.to)} />
          </>
        ) : null}
        <Form.Check
          className="mt-3"
          id="move-never"
          label="Do not ask me again"
          checked={never}
          onChange={(e) => setNever(e.target.checked)}
        />
      </Modal.Body>
      <Modal.Footer>
        <Button variant="plain" onClick={onHide}>
          Cancel
        </Button>
        <Button
          autoFocus
          disabled={isBusy}
          onClick={() => {
            if (never) keep.mutate();
            onMove();
          }}
        >
          Move
        </Button>
      </Modal.Footer>
    </Dialog>
  );
}
