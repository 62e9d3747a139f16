"use client";
import { Button, Dropdown } from "react-bootstrap";
import { ClockHistory, Scissors, ThreeDots } from "react-bootstrap-icons";

/** What can be done with the open document beside filing it, at the end of the viewer's bar. */
export function PaperButtons({
  isReady,
  onBench,
  onHandOver,
  onRename,
  onSayType,
  onReadAgain,
  onTimeline,
}: {
  isReady: boolean;
  onBench: () => void;
  onHandOver: () => void;
  onRename: () => void;
  onSayType: () => void;
  onReadAgain: () => void;
  onTimeline: () => void;
}) {
  return (
    <>
      <Button variant="quiet" aria-label="To the bench" title="To the bench  B" onClick={onBench}>
        <Scissors size={15} />
      </Button>
      <Dropdown align="end">
        <Dropdown.Toggle variant="quiet" aria-label="More actions">
          <ThreeDots size={15} />
        </Dropdown.Toggle>
        <Dropdown.Menu>
          <Dropdown.Item onClick={onHandOver}>
            Assign … <kbd>H</kbd>
          </Dropdown.Item>
          <Dropdown.Item onClick={onRename}>Rename …</Dropdown.Item>
          <Dropdown.Item onClick={onSayType}>Set document type …</Dropdown.Item>
          {isReady ? <Dropdown.Item onClick={onReadAgain}>Read again</Dropdown.Item> : null}
        </Dropdown.Menu>
      </Dropdown>
      <Button variant="quiet" aria-label="Timeline" title="Timeline" onClick={onTimeline}>
        <ClockHistory size={15} />
      </Button>
    </>
  );
}
