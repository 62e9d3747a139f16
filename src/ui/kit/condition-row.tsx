"use client";
import { Button, Form } from "react-bootstrap";
import { Trash } from "react-bootstrap-icons";
import { type Comparison, comparisons, type Condition, needsValue } from "#core/records/condition.ts";

/** Words of comparisons. */
export const compareWords: Readonly<Record<Comparison, string>> = {
  is: "is",
  isNot: "is not",
  contains: "contains",
  startsWith: "begins with",
  isEmpty: "is empty",
  isNotEmpty: "is not empty",
  isBefore: "is before",
  isFrom: "is from",
};

/** One condition on a field: field, comparison, value. `of` says in the labels which of them it is. */
export function ConditionRow({
  condition,
  fields,
  of,
  onChange,
  onRemove,
}: {
  condition: Condition;
  fields: readonly { readonly key: string; readonly label: string }[];
  of: string;
  onChange: (condition: Condition) => void;
  /** Absent for the only one. */
  onRemove?: (() => void) | undefined;
}) {
  return (
    <>
      <Form.Select
        size="sm"
        aria-label={`Field ${of}`}
        value={condition.field}
        onChange={(e) => onChange({ ...condition, field: e.target.value })}
      >
        {fields.map((f) => (
          <option key={f.key} value={f.key}>
            {f.label}
          </option>
        ))}
        {fields.some((f) => f.key === condition.field) ? null : <option value={condition.field}>{condition.field}</option>}
      </Form.Select>
      <Form.Select
        size="sm"
        aria-label={`Comparison ${of}`}
        value={condition.compare}
        onChange={(e) => onChange({ ...condition, compare: comparisons.find((k) => k === e.target.value) ?? "is" })}
      >
        {comparisons.map((c) => (
          <option key={c} value={c}>
            {compareWords[c]}
          </option>
        ))}
      </Form.Select>
      {needsValue(condition) ? (
        <Form.Control
          size="sm"
          aria-label={`Value ${of}`}
          value={condition.value}
          onChange={(e) => onChange({ ...condition, value: e.target.value })}
        />
      ) : null}
      {onRemove ? (
        <Button size="sm" variant="quiet" aria-label={`Remove condition ${of}`} onClick={onRemove}>
          <Trash />
        </Button>
      ) : null}
    </>
  );
}
