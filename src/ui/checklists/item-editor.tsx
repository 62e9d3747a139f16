"use client";
import { Button, Form } from "react-bootstrap";
import { ArrowDown, ArrowUp, ChevronDown, ChevronRight, Plus, Trash } from "react-bootstrap-icons";
import type { ItemRule, When } from "#core/checklists/checklist-rules.ts";
import type { RecordType } from "#core/records/record-type.ts";
import { ConditionRow } from "../kit/condition-row.tsx";
import { countText } from "../kit/words.ts";
import { useMe } from "../people/me-context.tsx";
import { TypeChoice } from "./type-choice.tsx";

/** An item while it is written: the server gives its bit. */
export type DraftItem = Omit<ItemRule, "bit"> & { readonly bit?: number | undefined };

const basics = [
  { key: "status", label: "Status" },
  { key: "title", label: "Title" },
  { key: "company", label: "Company" },
] as const;

/** One item of a record type's checklist: a line when shut, everything that can be said about it when open. */
export function ItemEditor({
  type,
  item,
  index,
  count,
  isOpen,
  errors,
  roles,
  onOpen,
  onChange,
  onMove,
  onRemove,
}: {
  type: RecordType;
  item: DraftItem;
  index: number;
  count: number;
  isOpen: boolean;
  errors: readonly { readonly path: string; readonly message: string }[];
  /** Roles that can be said to accept. */
  roles: readonly string[];
  onOpen: () => void;
  onChange: (item: DraftItem) => void;
  onMove: (by: number) => void;
  onRemove: () => void;
}) {
  const { me, recordType, documentType } = useMe();
  const set = (part: Partial<DraftItem>): void => onChange({ ...item, ...part });
  const fields = [...type.fields.map((f) => ({ key: f.key, label: f.label })), ...basics];
  const dates = type.fields.filter((f) => f.kind === "date");
  const properties = item.documentTypes
    .flatMap((k) => documentType(k)?.properties ?? [])
    .filter((p, i, all) => all.findIndex((x) => x.key === p.key) === i);
  const named = item.label || "this item";
  const wrongAt = (part: string): string | undefined => errors.find((e) => e.path === part || e.path.startsWith(`${part}.`))?.message;
  const setWhen = (at: number, when: When): void => set({ when: item.when.map((w, i) => (i === at ? when : w)) });
  return (
    <li className={`rule-item ${isOpen ? "is-open" : ""}`}>
      <div className="d-flex align-items-center gap-2">
        <button
          type="button"
          className="btn btn-quiet p-0 flex-grow-1 text-start d-flex gap-2 align-items-center"
          aria-expanded={isOpen}
          onClick={onOpen}
        >
          {isOpen ? <ChevronDown size={13} className="flex-shrink-0" /> : <ChevronRight size={13} className="flex-shrink-0" />}
          <span style={{ minWidth: 0 }}>
            <strong>{item.label || "New item"}</strong>{" "}
            <span className="text-2 small">{describeItem(item, type, (k) => documentType(k)?.label ?? k)}</span>
            {errors.length > 0 && !isOpen ? <span className="problem d-block">{errors[0]?.message}</span> : null}
          </span>
        </button>
        <Button size="sm" variant="quiet" aria-label={`Move ${named} up`} disabled={index === 0} onClick={() => onMove(-1)}>
          <ArrowUp />
        </Button>
        <Button size="sm" variant="quiet" aria-label={`Move ${named} down`} disabled={index === count - 1} onClick={() => onMove(1)}>
          <ArrowDown />
        </Button>
        <Button size="sm" variant="quiet" aria-label={`Remove ${named}`} onClick={onRemove}>
          <Trash />
        </Button>
      </div>
      {isOpen ? (
        <div className="rule-grid">
          <label htmlFor={`label-${item.key}`}>Document required</label>
          <Form.Control
            id={`label-${item.key}`}
            size="sm"
            maxLength={60}
            value={item.label}
            isInvalid={item.label.trim() === ""}
            onChange={(e) => set({ label: e.target.value })}
          />
          <span>Accepted documents</span>
          <div>
            <TypeChoice
              value={item.documentTypes}
              label={`Document types for ${named}`}
              wrong={item.documentTypes.length === 0}
              onChange={(v) => set({ documentTypes: [...v] })}
            />
            {wrongAt("documentTypes") ? <div className="problem">{wrongAt("documentTypes")}</div> : null}
            {item.papersThat.map((c, i) => (
              <div key={i} className="d-flex gap-1 mt-1 align-items-center">
                <span className="text-2 small text-nowrap">whose</span>
                <ConditionRow
                  condition={c}
                  fields={properties}
                  of={`${i + 1} of the documents of ${named}`}
                  onChange={(next) => set({ papersThat: item.papersThat.map((x, n) => (n === i ? next : x)) })}
                  onRemove={() => set({ papersThat: item.papersThat.filter((_, n) => n !== i) })}
                />
              </div>
            ))}
            {wrongAt("papersThat") ? <div className="problem">{wrongAt("papersThat")}</div> : null}
            {properties.length > 0 && item.papersThat.length < 4 ? (
              <Button
                size="sm"
                variant="quiet"
                onClick={() =>
                  set({
                    papersThat: [
                      ...item.papersThat,
                      { field: properties.find((p) => p.key === "signed")?.key ?? properties[0]?.key ?? "", compare: "is", value: "yes" },
                    ],
                  })
                }
              >
                <Plus /> only those whose…
              </Button>
            ) : null}
          </div>
          <label htmlFor={`count-${item.key}`}>How many</label>
          <div className="d-flex gap-3 align-items-center">
            <Form.Control
              id={`count-${item.key}`}
              type="number"
              min={1}
              max={50}
              size="sm"
              style={{ width: 80 }}
              value={item.count}
              onChange={(e) => set({ count: Math.max(1, Math.min(50, Number(e.target.value) || 1)) })}
            />
            <Form.Check
              id={`along-${item.key}`}
              label="documents along the chain count too"
              checked={item.along === "chain"}
              onChange={(e) => set({ along: e.target.checked ? "chain" : "own" })}
            />
          </div>
          <span>Applies</span>
          <div>
            {item.when.length === 0 ? <span className="text-2">always</span> : null}
            {item.when.map((w, i) => (
              <div key={i} className="d-flex gap-1 mb-1 align-items-center">
                <span className="text-2 small" style={{ width: 34 }}>
                  {i === 0 ? "when" : "and"}
                </span>
                {w.on === "field" ? (
                  <ConditionRow
                    condition={w}
                    fields={fields}
                    of={`${i + 1} of ${named}`}
                    onChange={(c) => setWhen(i, { ...c, on: "field" })}
                    onRemove={() => set({ when: item.when.filter((_, n) => n !== i) })}
                  />
                ) : (
                  <>
                    <Form.Select
                      size="sm"
                      aria-label={`Subject of condition ${i + 1} of ${named}`}
                      value={w.on === "paper" ? w.documentType : w.recordType}
                      onChange={(e) =>
                        setWhen(i, w.on === "paper" ? { ...w, documentType: e.target.value } : { ...w, recordType: e.target.value })
                      }
                    >
                      {(w.on === "paper" ? me.documentTypes : me.recordTypes).map((t) => (
                        <option key={t.key} value={t.key}>
                          {w.on === "paper"
                            ? `a ${t.label.toLowerCase()}`
                            : `a ${(recordType(t.key)?.label ?? t.label).toLowerCase()} of its chain`}
                        </option>
                      ))}
                    </Form.Select>
                    <Form.Select
                      size="sm"
                      aria-label={`Presence in condition ${i + 1} of ${named}`}
                      style={{ width: 150 }}
                      value={w.there ? "there" : "not"}
                      onChange={(e) => setWhen(i, { ...w, there: e.target.value === "there" })}
                    >
                      <option value="there">exists</option>
                      <option value="not">does not exist</option>
                    </Form.Select>
                    <Button
                      size="sm"
                      variant="quiet"
                      aria-label={`Remove condition ${i + 1} of ${named}`}
                      onClick={() => set({ when: item.when.filter((_, n) => n !== i) })}
                    >
                      <Trash />
                    </Button>
                  </>
                )}
              </div>
            ))}
            {wrongAt("when") ? <div className="problem">{wrongAt("when")}</div> : null}
            {item.when.length < 6 ? (
              <div className="d-flex gap-1">
                <Button
                  size="sm"
                  variant="quiet"
                  onClick={() =>
                    set({ when: [...item.when, { on: "field", field: fields[0]?.key ?? "status", compare: "is", value: "" }] })
                  }
                >
                  <Plus /> by a field
                </Button>
                <Button
                  size="sm"
                  variant="quiet"
                  onClick={() => set({ when: [...item.when, { on: "paper", documentType: me.documentTypes[0]?.key ?? "", there: true }] })}
                >
                  <Plus /> by another document
                </Button>
                <Button
                  size="sm"
                  variant="quiet"
                  onClick={() => set({ when: [...item.when, { on: "chain", recordType: me.recordTypes[0]?.key ?? "", there: true }] })}
                >
                  <Plus /> by its chain
                </Button>
              </div>
            ) : null}
          </div>
          <span>Due</span>
          <div className="d-flex gap-2 align-items-center flex-wrap">
            {dates.length === 0 ? (
              <span className="text-2">{type.plural} have no date fields</span>
            ) : (
              <>
                {item.due ? (
                  <>
                    <Form.Control
                      type="number"
                      min={0}
                      size="sm"
                      style={{ width: 80 }}
                      aria-label={`Days for ${named}`}
                      value={Math.abs(item.due.days)}
                      onChange={(e) =>
                        item.due &&
                        set({ due: { ...item.due, days: (item.due.days < 0 ? -1 : 1) * Math.abs(Number(e.target.value) || 0) } })
                      }
                    />
                    <span className="text-2">days</span>
                  </>
                ) : null}
                <Form.Select
                  size="sm"
                  style={{ width: 160 }}
                  aria-label={`When ${named} is due`}
                  value={item.due === null ? "" : item.due.days < 0 ? "before" : "after"}
                  onChange={(e) =>
                    set({
                      due:
                        e.target.value === ""
                          ? null
                          : {
                              field: item.due?.field ?? type.dateField ?? dates[0]?.key ?? "date",
                              days: (e.target.value === "before" ? -1 : 1) * Math.abs(item.due?.days ?? 2),
                            },
                    })
                  }
                >
                  <option value="">no due date</option>
                  <option value="after">after</option>
                  <option value="before">before</option>
                </Form.Select>
                {item.due ? (
                  <>
                    <Form.Select
                      size="sm"
                      style={{ width: 150 }}
                      aria-label={`Date that ${named} is counted from`}
                      value={item.due.field}
                      onChange={(e) => item.due && set({ due: { ...item.due, field: e.target.value } })}
                    >
                      {dates.map((d) => (
                        <option key={d.key} value={d.key}>
                          {d.label}
                        </option>
                      ))}
                    </Form.Select>
                  </>
                ) : null}
              </>
            )}
            {wrongAt("due") ? <div className="problem">{wrongAt("due")}</div> : null}
          </div>
          <span>Valid</span>
          <div className="d-flex gap-2 align-items-center flex-wrap">
            <Form.Select
              size="sm"
              style={{ width: 220 }}
              aria-label={`How long ${named} is valid`}
              value={item.validity === null ? "" : item.validity.kind === "months" ? "months" : `p:${item.validity.property}`}
              onChange={(e) =>
                set({
                  validity:
                    e.target.value === ""
                      ? null
                      : e.target.value === "months"
                        ? { kind: "months", months: 12 }
                        : { kind: "property", property: e.target.value.slice(2) },
                })
              }
            >
              <option value="">for ever</option>
              <option value="months">for some months from its date</option>
              {properties
                .filter((p) => p.kind === "date")
                .map((p) => (
                  <option key={p.key} value={`p:${p.key}`}>
                    until its “{p.label}”
                  </option>
                ))}
            </Form.Select>
            {item.validity?.kind === "months" ? (
              <>
                <Form.Control
                  type="number"
                  min={1}
                  max={600}
                  size="sm"
                  style={{ width: 80 }}
                  aria-label={`Months that ${named} is valid`}
                  value={item.validity.months}
                  onChange={(e) => set({ validity: { kind: "months", months: Math.max(1, Math.min(600, Number(e.target.value) || 1)) } })}
                />
                <span className="text-2 small">months</span>
              </>
            ) : null}
            {wrongAt("validity") ? <div className="problem">{wrongAt("validity")}</div> : null}
          </div>
          <span>Complete</span>
          <div>
            <Form.Select
              size="sm"
              style={{ width: 280 }}
              aria-label={`When ${named} is complete`}
              value={item.settledBy}
              onChange={(e) => set({ settledBy: e.target.value === "person" ? "person" : "clip" })}
            >
              <option value="clip">as soon as a document is clipped</option>
              <option value="person">when a person has accepted the document</option>
            </Form.Select>
            {item.settledBy === "person" ? (
              <div className="d-flex flex-wrap gap-3 mt-1">
                <span className="text-2 small">
                  {item.acceptedBy.length === 0 ? "by anyone who may file here, or only by:" : "only by:"}
                </span>
                {roles.map((role) => (
                  <Form.Check
                    key={role}
                    id={`${item.key}-${role}`}
                    className="small"
                    label={role}
                    checked={item.acceptedBy.includes(role)}
                    onChange={(e) =>
                      set({ acceptedBy: e.target.checked ? [...item.acceptedBy, role] : item.acceptedBy.filter((r) => r !== role) })
                    }
                  />
                ))}
              </div>
            ) : null}
          </div>
          <label htmlFor={`missing-${item.key}`}>Hint while outstanding</label>
          <Form.Control
            id={`missing-${item.key}`}
            size="sm"
            maxLength={160}
            placeholder="How to get the document"
            value={item.missing}
            onChange={(e) => set({ missing: e.target.value })}
          />
        </div>
      ) : null}
    </li>
  );
}

/** An item in a line: what counts, when, until when. */
export function describeItem(item: DraftItem, type: RecordType, labelOf: (documentType: string) => string): string {
  const due = item.due
    ? `due ${countText(Math.abs(item.due.days), "day")} ${item.due.days < 0 ? "before" : "after"} ${(type.fields.find((f) => f.key === item.due?.field)?.label ?? item.due.field).toLowerCase()}`
    : "";
  return [
    item.documentTypes.map(labelOf).join(" or ") !== item.label ? item.documentTypes.map((t) => labelOf(t).toLowerCase()).join(" or ") : "",
    item.count > 1 ? countText(item.count, "document") : "",
    item.when.length > 0 ? countText(item.when.length, "condition") : "",
    due,
    item.validity ? (item.validity.kind === "months" ? `valid for ${countText(item.validity.months, "month")}` : "expires") : "",
    item.settledBy === "person" ? "accepted by a person" : "",
    item.along === "chain" ? "along the chain" : "",
  ]
    .filter(Boolean)
    .join(" · ");
}
