"use client";
import { Button, Form } from "react-bootstrap";
import { Plus, Trash } from "react-bootstrap-icons";
import type { FolderRule, Variant } from "#core/filing-plan/folder-rule.ts";
import { ConditionRow } from "../kit/condition-row.tsx";
import { PatternInput, type PatternField } from "./pattern-input.tsx";

/** One variant: when a record's fields are so, these parts of the rule are different. */
export function VariantEditor({
  index,
  variant,
  rule,
  fields,
  connections,
  onChange,
  onRemove,
  children,
}: {
  index: number;
  variant: Variant;
  rule: FolderRule;
  fields: readonly PatternField[];
  connections: readonly { readonly key: string; readonly label: string }[];
  onChange: (variant: Variant) => void;
  onRemove: () => void;
  children: React.ReactNode;
}) {
  const n = index + 1;
  return (
    <fieldset className="variant mb-2" aria-label={`Variant ${n}`}>
      {variant.when.map((condition, i) => (
        <div key={i} className="d-flex gap-2 mb-2 align-items-center">
          <span className="text-2" style={{ width: 40 }}>
            {i === 0 ? "When" : "and"}
          </span>
          <ConditionRow
            condition={condition}
            fields={fields}
            of={`${i + 1} of variant ${n}`}
            onChange={(next) => onChange({ ...variant, when: variant.when.map((c, x) => (x === i ? next : c)) })}
            onRemove={variant.when.length > 1 ? () => onChange({ ...variant, when: variant.when.filter((_, x) => x !== i) }) : undefined}
          />
        </div>
      ))}
      <div className="d-flex gap-2 align-items-center mb-2">
        <span className="text-2 text-nowrap">root folder</span>
        <Form.Control
          size="sm"
          aria-label={`Root folder of variant ${n}`}
          value={variant.rootFolder ?? rule.rootFolder}
          onChange={(e) => onChange({ ...variant, rootFolder: e.target.value })}
        />
        {connections.length > 1 ? (
          <Form.Select
            size="sm"
            aria-label={`Connection of variant ${n}`}
            value={variant.connection ?? rule.connection}
            onChange={(e) => onChange({ ...variant, connection: e.target.value })}
          >
            {connections.map((c) => (
              <option key={c.key} value={c.key}>
                {c.label}
              </option>
            ))}
          </Form.Select>
        ) : null}
      </div>
      {variant.folderName === undefined ? null : (
        <div className="mb-2">
          <PatternInput
            id={`rule-variant-${index}`}
            value={variant.folderName}
            fields={fields}
            label={`Parts of the folder name of variant ${n}`}
            onChange={(folderName) => onChange({ ...variant, folderName })}
          />
        </div>
      )}
      <div className="d-flex gap-2 flex-wrap">
        <Button
          size="sm"
          variant="quiet"
          disabled={variant.when.length >= 6}
          onClick={() => onChange({ ...variant, when: [...variant.when, { field: fields[0]?.key ?? "key", compare: "is", value: "" }] })}
        >
          <Plus /> and
        </Button>
        {variant.folderName === undefined ? (
          <Button size="sm" variant="quiet" onClick={() => onChange({ ...variant, folderName: rule.folderName })}>
            Different folder name
          </Button>
        ) : null}
        {rule.inside ? (
          <Form.Check
            className="align-self-center small"
            id={`rule-variant-alone-${index}`}
            label="not inside the parent's folder"
            checked={variant.inside === false}
            onChange={(e) => {
              const { inside: _was, ...rest } = variant;
              onChange(e.target.checked ? { ...rest, inside: false } : rest);
            }}
          />
        ) : null}
        <Button size="sm" variant="quiet" className="ms-auto" onClick={onRemove}>
          <Trash /> Remove variant
        </Button>
      </div>
      {children}
    </fieldset>
  );
}
