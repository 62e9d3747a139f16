"use client";
import { Modal } from "react-bootstrap";
import { Dialog } from "../kit/dialog.tsx";

const keys: readonly (readonly [string, readonly (readonly [string, string])[]])[] = [
  [
    "Everywhere",
    [
      ["Ctrl K", "go to a record, document or page"],
      ["?", "show these shortcuts"],
      ["Z", "undo the last action"],
    ],
  ],
  [
    "In a list of documents",
    [
      ["J  K", "next and previous"],
      ["X", "select it"],
      ["Shift click", "select up to here"],
      ["Enter", "open"],
    ],
  ],
  [
    "In the filing form",
    [
      ["1 … 5", "use that suggestion"],
      ["/", "look up a record"],
      ["E", "properties"],
      ["C", "compare with the record"],
      ["N", "new record from the document"],
      ["F", "file and go to the next"],
      ["Ctrl Enter", "the same from within a field"],
      ["S", "set aside"],
      ["H", "assign"],
      ["B", "open on the bench"],
    ],
  ],
  [
    "On the bench",
    [
      ["← →  ↑ ↓", "next page, next document"],
      ["C", "cut before this page"],
      ["M", "join to the document before"],
      ["A", "apply all proposed cuts"],
      ["T", "turn"],
      ["D", "leave out"],
      ["N", "make a separate document"],
      [",  .", "move back and forward"],
      ["Z  Y", "undo and do again"],
    ],
  ],
  [
    "In the document",
    [
      ["+  −", "zoom in and out"],
      ["W", "fit the width"],
      ["R", "turn"],
      ["Ctrl F", "search in it"],
      ["in a field", "click the words to use; Shift click for several, or draw a box"],
    ],
  ],
];

/** All keys at one look. */
export function KeysDialog({ shown, onHide }: { shown: boolean; onHide: () => void }) {
  return (
    <Dialog show={shown} onHide={onHide} centered aria-labelledby="keys-title">
      <Modal.Header closeButton>
        <h2 id="keys-title">Keyboard shortcuts</h2>
      </Modal.Header>
      <Modal.Body>
        {keys.map(([group, list]) => (
          <section key={group} className="mb-3">
            <h3 className="mb-1">{group}</h3>
            <dl className="mb-0">
              {list.map(([key, what]) => (
                <div key={key} className="d-flex gap-3 py-1 border-bottom">
                  <dt style={{ width: 110 }}>
                    <kbd>{key}</kbd>
                  </dt>
                  <dd className="mb-0">{what}</dd>
                </div>
              ))}
            </dl>
          </section>
        ))}
        <p className="text-2 mb-0">Shortcuts do not work while you type in a field.</p>
      </Modal.Body>
    </Dialog>
  );
}
