"use client";
import { Button, ButtonGroup } from "react-bootstrap";
import { ArrowLeft, ExclamationTriangle, Folder2 } from "react-bootstrap-icons";
import type { RulePreview } from "#server/filing-plan/preview-rule.ts";
import { wordsOf } from "../kit/api.ts";
import { countText } from "../kit/words.ts";
import { LookUp } from "../records/look-up.tsx";

export type PreviewAnswer = RulePreview;
/** Which records the folders are shown of. */
export type Sample = "recent" | "random" | "odd" | "chosen";

interface Node {
  readonly name: string;
  readonly children: Map<string, Node>;
  leaf: RulePreview["samples"][number] | null;
}

/** What real records would get: their folders as a tree, namesakes, and what does not fit. */
export function RulePreviewPanel({
  answer,
  error,
  sample,
  typeKey,
  chosenKeys,
  onChosen,
  onSample,
  onBack,
}: {
  answer: RulePreview | undefined;
  error: unknown;
  sample: Sample;
  typeKey: string;
  /** Numbers of the records that were chosen one by one. */
  chosenKeys: readonly string[];
  onChosen: (keys: readonly string[]) => void;
  onSample: (sample: Sample) => void;
  /** Back to the rule, where there is room for one column only. */
  onBack: () => void;
}) {
  const root: Node = { name: "", children: new Map(), leaf: null };
  for (const s of answer?.samples ?? []) {
    let at = root;
    for (const name of s.segments) {
      const next = at.children.get(name) ?? { name, children: new Map<string, Node>(), leaf: null };
      at.children.set(name, next);
      at = next;
    }
    at.leaf = s;
  }
  return (
    <section className="d-flex flex-column h-100" aria-label="Preview">
      <div className="bar step-back">
        <Button variant="quiet" onClick={onBack}>
          <ArrowLeft /> Rule
        </Button>
      </div>
      <div className="bar">
        <h2>Preview</h2>
        <ButtonGroup size="sm" className="ms-auto" aria-label="Records shown">
          {(["recent", "random", "odd", "chosen"] as const).map((s) => (
            <Button
              key={s}
              variant="plain"
              className={sample === s ? "btn-on" : ""}
              aria-pressed={sample === s}
              onClick={() => onSample(s)}
            >
              {s}
            </Button>
          ))}
        </ButtonGroup>
      </div>
      {sample === "chosen" ? (
        <div className="px-3 pt-2">
          <LookUp
            onChoose={(hit) => onChosen([...new Set([...chosenKeys, hit.key])].slice(-16))}
            type={typeKey}
            placeholder="Find records by number or name"
          />
          {chosenKeys.length > 0 ? (
            <Button size="sm" variant="quiet" onClick={() => onChosen([])}>
              Clear
            </Button>
          ) : null}
        </div>
      ) : null}
      <div className="scroll px-3 py-2" tabIndex={0} role="region" aria-label="Folders" aria-live="polite">
        {error ? (
          <p className="problem">
            {wordsOf(error).title}. {wordsOf(error).next}
          </p>
        ) : null}
        {answer && answer.errors.length > 0 ? <p className="problem">The rule is incomplete: {answer.errors[0]?.message}.</p> : null}
        {answer && answer.records === 0 ? <p className="text-2">There are no records of this type yet.</p> : null}
        <ul className="place">
          {[...root.children.values()].map((n) => (
            <Tree key={n.name} node={n} depth={0} />
          ))}
        </ul>
        {answer && answer.errors.length === 0 && answer.records > 0 ? (
          <div className="mt-3 pt-2 border-top">
            {answer.clashCount === 0 && answer.tooLong === 0 ? (
              <p className="mb-0" style={{ color: "var(--moss)" }}>
                All {countText(answer.records, "folder")} are unique and valid.
              </p>
            ) : null}
            {answer.tooLong > 0 ? (
              <p className="problem">
                {countText(answer.tooLong, "path is", "paths are")} too long for the repository: {answer.tooLongKeys.slice(0, 6).join(", ")}
              </p>
            ) : null}
            {answer.changedCount > 0 ? (
              <details className="mb-2">
                <summary>{countText(answer.changedCount, "name is", "names are")} not allowed as they are</summary>
                <ul className="ps-3 mb-0 small">
                  {answer.changed.map((c) => (
                    <li key={c.key}>
                      <span className="mono">{c.key}</span> {c.name} → <strong>{c.becomes}</strong>
                    </li>
                  ))}
                </ul>
              </details>
            ) : null}
            {answer.clashCount > 0 ? (
              <>
                <p className="mb-1" style={{ color: "var(--amber-7)" }}>
                  <ExclamationTriangle /> {countText(answer.clashCount, "name is", "names are")} shared by several records:
                </p>
                <ul className="ps-3 mb-0">
                  {answer.clashes.map((c) => (
                    <li key={c.path} className="mb-1">
                      <strong>{c.path}</strong>
                      <div className="text-2 small">
                        {c.keys.join(", ")}:{" "}
                        {c.toldApart ? "made unique by the field" : "later ones get a number; adding a field is better"}
                      </div>
                    </li>
                  ))}
                </ul>
              </>
            ) : null}
          </div>
        ) : null}
      </div>
    </section>
  );
}

function Tree({ node, depth }: { node: Node; depth: number }) {
  return (
    <>
      <li style={{ paddingLeft: depth * 14 }}>
        <Folder2 size={15} aria-hidden="true" />
        <span>
          {node.leaf ? <strong>{node.name}</strong> : node.name}{" "}
          {node.leaf ? (
            <span className="text-2">
              {node.leaf.unassigned ? "no account yet" : node.leaf.papers > 0 ? countText(node.leaf.papers, "document") : ""}
            </span>
          ) : null}
        </span>
      </li>
      {[...node.children.values()].map((n) => (
        <Tree key={n.name} node={n} depth={depth + 1} />
      ))}
    </>
  );
}
