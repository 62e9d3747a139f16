"use client";
import { useMemo, useState } from "react";
import { Button, Form } from "react-bootstrap";
import { X } from "react-bootstrap-icons";
import { type DraftSource, draftFields, draftTitle, fillDraft } from "#core/drafts/fill-draft.ts";
import { fieldValuesSchema } from "#core/documents/properties-schema.ts";
import type { FieldValues, RecordType } from "#core/records/record-type.ts";
import type { Reading } from "#core/reading/reading.ts";
import { numberPlaces } from "../pages/marks.ts";
import { DraftFields } from "./draft-fields.tsx";

/** An account that is made from a document together with the record that belongs to it: what its fields hold, and what is sent. */
export function useNewAccount(type: RecordType | undefined, readings: readonly Reading[]) {
  const [isOpen, setOpen] = useState(false);
  const [typed, setTyped] = useState<FieldValues>({});
  const [wording, setWording] = useState<string | null>(null);
  const filled = useMemo(() => (type ? fillDraft(type, readings, null) : { values: {}, sources: {} }), [type, readings]);
  const values = useMemo(() => ({ ...filled.values, ...typed }), [filled, typed]);
  const fields = useMemo(() => (type ? draftFields(type) : []), [type]);
  const checked = fieldValuesSchema(fields).safeParse(values);
  const sources: Readonly<Record<string, DraftSource>> = {
    ...filled.sources,
    ...Object.fromEntries(Object.keys(typed).map((key) => [key, { from: "person" } as const])),
  };
  const title = wording ?? (type ? draftTitle(type, values, null) : "");
  return {
    isOpen,
    open: () => setOpen(true),
    close: () => setOpen(false),
    isValid: checked.success,
    issues: new Map(checked.success ? [] : checked.error.issues.map((i) => [String(i.path[0]), i.message])),
    fields,
    values,
    sources,
    title,
    setTitle: (text: string) => setWording(text || null),
    setValue: (key: string, value: FieldValues[string]) => setTyped((now) => ({ ...now, [key]: value ?? "" })),
    /** As the server takes it. */
    wish: { type: type?.key ?? "", title, fields: values, sources },
  };
}
export type NewAccount = ReturnType<typeof useNewAccount>;

/** The fields of the new account, filled from the document. */
export function NewAccountForm({ account, type, tried }: { account: NewAccount; type: RecordType; tried: boolean }) {
  const wrong = new Map([...account.issues].filter(([key]) => tried || account.values[key] != null));
  return (
    <div className="clip-card d-block" id="new-account" role="group" aria-label={`New ${type.label.toLowerCase()}`}>
      <div className="d-flex align-items-center mb-2">
        <strong>New {type.label.toLowerCase()}</strong>
        <span className="text-2 small ms-2">sent first</span>
        <Button variant="quiet" className="ms-auto" aria-label={`No new ${type.label.toLowerCase()}`} onClick={account.close}>
          <X size={18} />
        </Button>
      </div>
      <div className="field-row">
        <label htmlFor="account-title">Title</label>
        <Form.Control id="account-title" value={account.title} maxLength={300} onChange={(e) => account.setTitle(e.target.value)} />
      </div>
      <DraftFields
        idPrefix="account"
        fields={account.fields}
        values={account.values}
        sources={account.sources}
        numbers={numberPlaces([])}
        wrong={wrong}
        onValue={account.setValue}
        onEnter={() => {}}
      />
    </div>
  );
}
