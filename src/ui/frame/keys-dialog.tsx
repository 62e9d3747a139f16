"use client";
import { Modal } from "react-bootstrap";
import { Dialog } from "../kit/dialog.tsx";

const keys: readonly (readonly [string, readonly (readonly [string, string])[]])[] = [
  [
    "Everywhere",
    [
      ["Ctrl K", "go to a record, document or place"],
      ["?", "show these keys"],
      ["Z", "undo what was just done"],
    ],
  ],
  [
    "In a list of papers",
    [
      ["J  K", "next and previous"],
      ["X", "choose it"],
      ["Shift click", "choose all up to here"],
      ["Enter", "open"],
    ],
  ],
  [
    "On the sheet",
    [
      ["1 … 5", "take that suggestion"],
      ["/", "look up a record"],
      ["E", "properties"],
      ["C", "compare with the record"],
      ["N", "new record from the paper"],
      ["F", "file and go to the next"],
      ["Ctrl Enter", "the same from within a field"],
      ["S", "set aside"],
      ["H", "hand over"],
      ["B", "to the bench"],
    ],
  ],
  [
    "On the bench",
    [
      ["← →  ↑ ↓", "page by page, document by document"],
      ["C", "cut before this page"],
      ["M", "join to the document before"],
      ["A", "make all proposed cuts"],
      ["T", "turn"],
      ["D", "leave out"],
      ["N", "a document of its own"],
      [",  .", "move back and on"],
      ["Z  Y", "undo and do again"],
    ],
  ],
  [
    "On the paper",
    [
      ["+  −", "larger and smaller"],
      ["W", "fit the width"],
      ["R", "turn"],
      ["Ctrl F", "search in it"],
      ["in a field", "click the words it is to have; Shift click for several, or draw a box"],
    ],
  ],
];

/** All keys at one look. */
export function KeysDialog({ shown, onHide }: { shown: boolean; onHide: () => void }) {
  return (
    <Dialog show={shown} onHide={onHide} centered aria-labelledby="keys-title">
      <Modal.Header closeButton>
        <h2 id="keys-title">Keys</h2>
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
        <p className="text-2 mb-0">No key works while you type in a field.</p>
      </Modal.Body>
    </Dialog>
  );
}
