"use client";
import { useMutation } from "@tanstack/react-query";
import { useState } from "react";
import { Button, ButtonGroup, Form, Modal } from "react-bootstrap";
import { type ActivityKind, activityKinds, activityWords } from "#core/activities/activity.ts";
import { parseTypedDay } from "#core/shared/parse-day.ts";
import type { RecordAnswer } from "#server/records/load-record-page.ts";
import { Dialog } from "../kit/dialog.tsx";
import { apiSend, queryOf } from "../kit/api.ts";
import { DayInput } from "../kit/day-input.tsx";
import { useNotices } from "../kit/notices.tsx";
import { todayText } from "../kit/words.ts";
import { recordPath } from "./record-href.ts";

/** Writes down a call, visit, message or meeting as a document of the record. */
export function ActivityDialog({
  record,
  onWritten,
  onHide,
}: {
  record: RecordAnswer;
  onWritten: (code: string) => void;
  onHide: () => void;
}) {
  const notices = useNotices();
  const [kind, setKind] = useState<ActivityKind>("call");
  const [about, setAbout] = useState("");
  const [on, setOn] = useState(todayText());
  const [whom, setWhom] = useState("");
  const [text, setText] = useState("");
  const day = parseTypedDay(on, todayText());
  const write = useMutation({
    mutationFn: () =>
      apiSend<{ code: string; title: string }>("POST", `${recordPath(record, "/activities")}${queryOf({ company: record.company })}`, {
        kind,
        about,
        on: day,
        with: whom,
        text,
      }),
    onSuccess: (filed) => {
      notices.done(`${filed.title} recorded`, {
        undo: () =>
          void apiSend("POST", `/documents/${filed.code}/unfile`).then(() => {
            notices.done("Taken back to Arrivals");
            onWritten("");
          }, notices.wrong),
      });
      onWritten(filed.code);
      onHide();
    },
    onError: notices.wrong,
  });
  return (
    <Dialog show onHide={onHide} centered>
      <Form
        onSubmit={(e) => {
          e.preventDefault();
          if (about.trim() !== "" && day !== null) write.mutate();
        }}
      >
        <Modal.Header closeButton>
          <Modal.Title as="h2">Record an activity for {record.key}</Modal.Title>
        </Modal.Header>
        <Modal.Body>
          <ButtonGroup className="mb-3" aria-label="Activity">
            {activityKinds.map((k) => (
              <Button key={k} variant="plain" className={k === kind ? "btn-on" : ""} aria-pressed={k === kind} onClick={() => setKind(k)}>
                {activityWords[k]}
              </Button>
            ))}
          </ButtonGroup>
          <Form.Group controlId="activity-about" className="mb-2">
            <Form.Label className="mb-0">Subject</Form.Label>
            <Form.Control autoFocus maxLength={120} value={about} onChange={(e) => setAbout(e.target.value)} />
          </Form.Group>
          <div className="d-flex gap-2 mb-2">
            <div style={{ flex: "0 0 170px" }}>
              <Form.Label htmlFor="activity-on" className="mb-0">
                Date
              </Form.Label>
              <DayInput id="activity-on" value={on} wrong={day === null} onChange={setOn} />
            </div>
            <Form.Group controlId="activity-with" className="flex-grow-1">
              <Form.Label className="mb-0">Contact</Form.Label>
              <Form.Control maxLength={120} value={whom} onChange={(e) => setWhom(e.target.value)} />
            </Form.Group>
          </div>
          <Form.Group controlId="activity-text">
            <Form.Label className="mb-0">Notes</Form.Label>
            <Form.Control
              as="textarea"
              rows={6}
              value={text}
              onChange={(e) => setText(e.target.value)}
              onKeyDown={(e) => {
                if (e.ctrlKey && e.key === "Enter") e.currentTarget.form?.requestSubmit();
              }}
            />
          </Form.Group>
        </Modal.Body>
        <Modal.Footer>
          <Button variant="plain" onClick={onHide}>
            Cancel
          </Button>
          <Button type="submit" disabled={about.trim() === "" || day === null || write.isPending}>
            Record activity <kbd>Ctrl Enter</kbd>
          </Button>
        </Modal.Footer>
      </Form>
    </Dialog>
  );
}
