"use client";
import { Button, Form } from "react-bootstrap";
import { Plus, Trash } from "react-bootstrap-icons";
import type { DocumentType } from "#core/documents/document-type.ts";
import { documentBasics, type FolderRule } from "#core/filing-plan/folder-rule.ts";
import type { RecordType } from "#core/records/record-type.ts";
import type { FieldError } from "#core/shared/result.ts";
import { PatternInput, type PatternField } from "./pattern-input.tsx";
import { VariantEditor } from "./variant-editor.tsx";

const kinds = [
  { key: "standing", label: "Master record", about: "lives for years; folder named after it" },
  { key: "passing", label: "Transaction", about: "one event; folder named after its number" },
] as const;

/** Fields of a record type that a name can be built from. */
export function patternFields(type: RecordType): readonly PatternField[] {
  return [
    { key: "key", label: "Number" },
    { key: "title", label: "Title" },
    { key: "date", label: "Date" },
    { key: "status", label: "Status" },
    { key: "company", label: "Company" },
    ...type.fields.map((f) => ({ key: f.key, label: f.label })),
  ];
}

/** The whole folder rule of a record type, field by field; mistakes stand where they are. */
export function RuleEditor({
  type,
  rule,
  errors,
  parentLabels,
  connections,
  documentTypes,
  onChange,
}: {
  type: RecordType;
  rule: FolderRule;
  errors: readonly FieldError[];
  parentLabels: readonly string[];
  connections: readonly { readonly key: string; readonly label: string }[];
  documentTypes: readonly DocumentType[];
  onChange: (rule: FolderRule) => void;
}) {
  const set = (change: Partial<FolderRule>): void => onChange({ ...rule, ...change });
  const wrong = (path: string) =>
    errors
      .filter((e) => e.path === path)
      .map((e) => (
        <div key={e.message} className="problem mt-1">
          {e.message}
        </div>
      ));
  const dates = type.fields.filter((f) => f.kind === "date");
  const row = (label: string, id: string, control: React.ReactNode) => (
    <div className="row mb-3">
      <label className="col-sm-3 fw-bold pt-1" htmlFor={id}>
        {label}
      </label>
      <div className="col-sm-9">{control}</div>
    </div>
  );
  const fields = patternFields(type);
  const fileFields: readonly PatternField[] = [
    ...documentBasics.map((key) => ({
      key,
      label: { title: "Title", documentType: "Document type", code: "Code", version: "Version", filedOn: "Filing date" }[key],
    })),
    ...fields.map((f) => ({ key: `record.${f.key}`, label: `${type.short}: ${f.label}` })),
  ];
  const unnamed = documentTypes.filter((t) => rule.fileNames[t.key] === undefined);
  return (
    <Form onSubmit={(e) => e.preventDefault()}>
      <div className="row mb-3">
        <div className="col-sm-3 fw-bold pt-1" id="kind-label">
          Kind
        </div>
        <div className="col-sm-9 d-grid gap-2" role="radiogroup" aria-labelledby="kind-label" style={{ gridTemplateColumns: "1fr 1fr" }}>
          {kinds.map((k) => (
            <button
              key={k.key}
              type="button"
              role="radio"
              aria-checked={rule.kind === k.key}
              className="choice-card"
              onClick={() => set({ kind: k.key })}
            >
              <strong className="d-block">{k.label}</strong>
              <span className="text-2 small">{k.about}</span>
            </button>
          ))}
        </div>
      </div>
      {connections.length > 1
        ? row(
            "Connection",
            "rule-connection",
            <>
              <Form.Select id="rule-connection" value={rule.connection} onChange={(e) => set({ connection: e.target.value })}>
                {connections.map((c) => (
                  <option key={c.key} value={c.key}>
                    {c.label}
                  </option>
                ))}
              </Form.Select>
              {wrong("connection")}
            </>,
          )
        : null}
      {parentLabels.length > 0
        ? row(
            "Inside",
            "rule-inside",
            <>
              <Form.Select
                id="rule-inside"
                value={rule.inside ? "parent" : ""}
                onChange={(e) =>
                  set({
                    inside:
                      e.target.value === "parent"
                        ? { otherwise: rule.inside?.otherwise ?? `Unassigned ${type.plural.toLowerCase()}` }
                        : null,
                  })
                }
              >
                <option value="parent">the folder of its {parentLabels.join(" or ").toLowerCase()}</option>
                <option value="">no parent; directly in the root folder</option>
              </Form.Select>
              {rule.inside ? (
                <div className="d-flex gap-2 align-items-center mt-2">
                  <label htmlFor="rule-otherwise" className="text-2 text-nowrap">
                    Without a parent, put it in
                  </label>
                  <Form.Control
                    id="rule-otherwise"
                    size="sm"
                    value={rule.inside.otherwise}
                    onChange={(e) => set({ inside: { otherwise: e.target.value } })}
                  />
                </div>
              ) : null}
              {wrong("inside")}
            </>,
          )
        : null}
      {row(
        "Root folder",
        "rule-root",
        <>
          <Form.Control
            id="rule-root"
            value={rule.rootFolder}
            onChange={(e) => set({ rootFolder: e.target.value })}
            placeholder="Bookings, or Finance/Journals"
          />
          {wrong("rootFolder")}
        </>,
      )}
      {row(
        "Grouped by",
        "rule-group",
        <>
          <div className="d-flex gap-2">
            <Form.Select
              id="rule-group"
              value={rule.groupedBy?.field ?? ""}
              onChange={(e) =>
                set({ groupedBy: e.target.value ? { field: e.target.value, period: rule.groupedBy?.period ?? "year" } : null })
              }
            >
              <option value="">nothing</option>
              {dates.map((f) => (
                <option key={f.key} value={f.key}>
                  {f.label}
                </option>
              ))}
              {dates.length === 0 ? <option value="date">Date</option> : null}
            </Form.Select>
            {rule.groupedBy ? (
              <Form.Select
                aria-label="Period"
                style={{ width: 130 }}
                value={rule.groupedBy.period}
                onChange={(e) =>
                  set({ groupedBy: { field: rule.groupedBy?.field ?? "date", period: e.target.value === "month" ? "month" : "year" } })
                }
              >
                <option value="year">year</option>
                <option value="month">month</option>
              </Form.Select>
            ) : null}
          </div>
          {wrong("groupedBy")}
        </>,
      )}
      {row(
        "Folder name",
        "rule-name",
        <>
          <PatternInput id="rule-name" value={rule.folderName} fields={fields} onChange={(folderName) => set({ folderName })} />
          {wrong("folderName")}
        </>,
      )}
      {row(
        "If names clash, add",
        "rule-apart",
        <>
          <Form.Select id="rule-apart" value={rule.tellApart ?? ""} onChange={(e) => set({ tellApart: e.target.value || null })}>
            <option value="">{rule.folderName.includes("{key}") ? "nothing, the number is unique" : "a number"}</option>
            {fields.map((f) => (
              <option key={f.key} value={f.key}>
                {f.label}
              </option>
            ))}
          </Form.Select>
          {wrong("tellApart")}
        </>,
      )}
      {row(
        "File name",
        "rule-file",
        <>
          <PatternInput
            id="rule-file"
            value={rule.fileName}
            fields={fileFields}
            ending=". ending"
            onChange={(fileName) => set({ fileName })}
          />
          {wrong("fileName")}
        </>,
      )}
      {row(
        "Other file names",
        "rule-file-names",
        <>
          {Object.entries(rule.fileNames).map(([key, pattern]) => (
            <div key={key} className="mb-2">
              <div className="d-flex align-items-center gap-2 mb-1">
                <strong className="small">{documentTypes.find((t) => t.key === key)?.plural ?? key}</strong>
                <Button
                  size="sm"
                  variant="quiet"
                  aria-label={`Name ${documentTypes.find((t) => t.key === key)?.plural ?? key} like the others`}
                  onClick={() => {
                    const { [key]: _gone, ...rest } = rule.fileNames;
                    set({ fileNames: rest });
                  }}
                >
                  <Trash />
                </Button>
              </div>
              <PatternInput
                id={`rule-file-${key}`}
                value={pattern}
                fields={fileFields}
                ending=". ending"
                label={`Parts of the name of ${documentTypes.find((t) => t.key === key)?.plural ?? key}`}
                onChange={(next) => set({ fileNames: { ...rule.fileNames, [key]: next } })}
              />
              {wrong(`fileNames.${key}`)}
            </div>
          ))}
          <Form.Select
            id="rule-file-names"
            value=""
            onChange={(e) => (e.target.value ? set({ fileNames: { ...rule.fileNames, [e.target.value]: rule.fileName } }) : undefined)}
          >
            <option value="">
              {Object.keys(rule.fileNames).length === 0 ? "all the same; choose a type that differs" : "choose another type that differs"}
            </option>
            {unnamed.map((t) => (
              <option key={t.key} value={t.key}>
                {t.plural}
              </option>
            ))}
          </Form.Select>
        </>,
      )}
      {row(
        "Sub-folders",
        "rule-sub",
        <Form.Select
          id="rule-sub"
          value={rule.subFolders ?? ""}
          onChange={(e) => set({ subFolders: e.target.value === "" ? null : e.target.value === "section" ? "section" : "documentType" })}
        >
          <option value="">none; all documents in one folder</option>
          <option value="section">one per section</option>
          <option value="documentType">one per document type</option>
        </Form.Select>,
      )}
      {row(
        "Variants",
        "rule-variants",
        <div id="rule-variants">
          {rule.variants.map((variant, i) => (
            <VariantEditor
              key={i}
              index={i}
              variant={variant}
              rule={rule}
              fields={fields}
              connections={connections}
              onChange={(next) => set({ variants: rule.variants.map((v, n) => (n === i ? next : v)) })}
              onRemove={() => set({ variants: rule.variants.filter((_, n) => n !== i) })}
            >
              {wrong(`variants.${i}`)}
            </VariantEditor>
          ))}
          <Button
            size="sm"
            variant="plain"
            disabled={rule.variants.length >= 20}
            onClick={() =>
              set({
                variants: [
                  ...rule.variants,
                  {
                    when: [{ field: type.fields.find((f) => f.kind === "choice")?.key ?? "status", compare: "is", value: "" }],
                    rootFolder: rule.rootFolder,
                  },
                ],
              })
            }
          >
            <Plus /> {rule.variants.length === 0 ? "Add variant for some records" : "Add variant"}
          </Button>
          {rule.variants.length > 1 ? <div className="text-2 small mt-1">The first that matches applies.</div> : null}
        </div>,
      )}
    </Form>
  );
}
