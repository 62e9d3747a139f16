import { Form } from "react-bootstrap";
import { DayInput } from "../kit/day-input.tsx";
import type { Field, FieldValue } from "#core/records/record-type.ts";

/** An input for a typed field. Values are text or yes/no; empty is null. */
export function FieldInput({
  id,
  field,
  value,
  wrong,
  onChange,
}: {
  id: string;
  field: Field;
  value: FieldValue;
  wrong: boolean;
  onChange: (value: FieldValue) => void;
}) {
  if (field.kind === "yesNo") return <Form.Check id={id} checked={value === true} onChange={(e) => onChange(e.target.checked)} />;
  if (field.kind === "choice") {
    return (
      <Form.Select
        id={id}
        value={typeof value === "string" ? value : ""}
        isInvalid={wrong}
        onChange={(e) => onChange(e.target.value || null)}
      >
        <option value="" />
        {(field.choices ?? []).map((c) => (
          <option key={c}>{c}</option>
        ))}
      </Form.Select>
    );
  }
  if (field.kind === "date")
    return <DayInput id={id} value={typeof value === "string" ? value : ""} wrong={wrong} onChange={(day) => onChange(day || null)} />;
  const mono = field.kind === "amount" || field.kind === "number" || /number|order|reference|batch/i.test(field.key);
  return (
    <Form.Control
      id={id}
      className={mono ? "mono" : ""}
      type="text"
      inputMode={field.kind === "amount" || field.kind === "number" ? "decimal" : undefined}
      value={typeof value === "string" ? value : ""}
      isInvalid={wrong}
      aria-invalid={wrong}
      onChange={(e) => onChange(e.target.value === "" ? null : e.target.value)}
    />
  );
}
