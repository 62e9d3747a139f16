"use client";
import { Form } from "react-bootstrap";
import { X } from "react-bootstrap-icons";
import { useMe } from "../people/me-context.tsx";

/** One or several document types: those chosen stand as chips, another is added from the list. */
export function TypeChoice({
  value,
  label,
  onChange,
  wrong = false,
  between = "or",
}: {
  value: readonly string[];
  label: string;
  onChange: (value: readonly string[]) => void;
  wrong?: boolean;
  /** What stands between them. */
  between?: "or" | "then";
}) {
  const { me, documentType } = useMe();
  return (
    <div className="d-flex flex-wrap gap-1 align-items-center">
      {value.map((key, i) => (
        <span key={key} className="d-inline-flex align-items-center gap-1">
          {i > 0 ? <span className="text-2 small">{between}</span> : null}
          <button type="button" className="chip border-0" onClick={() => onChange(value.filter((v) => v !== key))}>
            {documentType(key)?.label ?? key} <X aria-label="remove" />
          </button>
        </span>
      ))}
      <Form.Select
        size="sm"
        style={{ width: value.length === 0 ? 220 : 110 }}
        aria-label={label}
        isInvalid={wrong}
        value=""
        onChange={(e) => e.target.value !== "" && onChange([...value, e.target.value])}
      >
        <option value="">{value.length === 0 ? "Choose a document type" : `${between}…`}</option>
        {me.documentTypes
          .filter((t) => !value.includes(t.key))
          .map((t) => (
            <option key={t.key} value={t.key}>
              {t.label}
            </option>
          ))}
      </Form.Select>
    </div>
  );
}
