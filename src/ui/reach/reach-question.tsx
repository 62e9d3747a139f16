"use client";
import { Button, Modal } from "react-bootstrap";
import { Dialog } from "../kit/dialog.tsx";
import { useMe } from "../people/me-context.tsx";
import { type ReachingClip, useReach } from "./reach-choice.tsx";

/** Asks before a clip shows on many records: on how many, on which, and whether it should. */
export function ReachQuestion({
  about,
  isBusy,
  onShow,
  onOwnOnly,
  onHide,
}: {
  /** What is to be clipped; null while there is nothing to ask. */
  about: { readonly documentType: string; readonly clips: readonly ReachingClip[] } | null;
  isBusy: boolean;
  /** It is to show on all of them. */
  onShow: () => void;
  /** It is to show on the records it is clipped to and on no other. */
  onOwnOnly: () => void;
  onHide: () => void;
}) {
  const { recordType, documentType } = useMe();
  const reach = useReach(about?.documentType ?? "", about?.clips ?? [], about !== null);
  return (
    <Dialog show={about !== null} onHide={onHide} centered aria-labelledby="reach-title">
      <Modal.Header closeButton>
        <h2 id="reach-title">Shown on many records</h2>
      </Modal.Header>
      <Modal.Body>
        {(reach.data?.items ?? [])
          .filter((i) => i.total > 0)
          .map((i) => (
            <div key={i.type + i.key} className="mb-3">
              <p className="mb-1">
                This {(documentType(about?.documentType ?? "")?.label ?? "paper").toLowerCase()} on{" "}
                {recordType(i.type)?.label.toLowerCase()} <span className="mono">{i.key}</span> would also be shown on{" "}
                <strong>{i.words}</strong>:
              </p>
              <ul className="text-2 mb-0">
                {i.named.map((n) => (
                  <li key={n.type + n.key}>
                    <span className="mono">{n.key}</span> {n.title}
                  </li>
                ))}
                {i.total > i.named.length ? <li>and {(i.total - i.named.length).toLocaleString("en")} more</li> : null}
              </ul>
            </div>
          ))}
      </Modal.Body>
      <Modal.Footer>
        <Button variant="plain" onClick={onHide}>
          Cancel
        </Button>
        <Button variant="plain" disabled={isBusy} onClick={onOwnOnly}>
          On its own record only
        </Button>
        <Button autoFocus disabled={isBusy} onClick={onShow}>
          Show on all
        </Button>
      </Modal.Footer>
    </Dialog>
  );
}
