"use client";
import { Button, Dropdown } from "react-bootstrap";

/** What can be done with the documents that are chosen in the list. */
export function ChosenBar({
  count,
  sure,
  onFileSure,
  onBench,
  onSetAside,
  onHandOver,
  onType,
  onReadAgain,
  onChooseAll,
  onChooseSure,
}: {
  count: number;
  /** Of them those that the program is sure of. */
  sure: number;
  onFileSure: () => void;
  onBench: () => void;
  onSetAside: () => void;
  onHandOver: () => void;
  onType: () => void;
  onReadAgain: () => void;
  onChooseAll: () => void;
  onChooseSure: () => void;
}) {
  return (
    <div className="bar chosen-bar" style={{ background: "var(--amber-1)" }}>
      <strong className="me-auto">{count.toLocaleString("en-GB")} selected</strong>
      {sure > 0 ? (
        <Button size="sm" onClick={onFileSure}>
          File {sure.toLocaleString("en-GB")} certain
        </Button>
      ) : null}
      <Button size="sm" variant="plain" onClick={onBench}>
        Bench
      </Button>
      <Button size="sm" variant="plain" onClick={onSetAside}>
        Set aside
      </Button>
      <Dropdown>
        <Dropdown.Toggle size="sm" variant="plain" aria-label="More actions for selected documents">
          More
        </Dropdown.Toggle>
        <Dropdown.Menu>
          <Dropdown.Item onClick={onHandOver}>Assign …</Dropdown.Item>
          <Dropdown.Item onClick={onType}>Set document type …</Dropdown.Item>
          <Dropdown.Item onClick={onReadAgain}>Read again</Dropdown.Item>
          <Dropdown.Item onClick={onChooseSure}>Select certain ones</Dropdown.Item>
          <Dropdown.Item onClick={onChooseAll}>Select all shown</Dropdown.Item>
        </Dropdown.Menu>
      </Dropdown>
    </div>
  );
}
