"use client";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { Button, Form } from "react-bootstrap";
import { X } from "react-bootstrap-icons";
import { type ReachSettings, reachSettingsSchema } from "#core/reach/reach.ts";
import { apiGet, apiSend } from "../kit/api.ts";
import { useNotices } from "../kit/notices.tsx";
import { useMe } from "../people/me-context.tsx";

/** Which other records see documents of each document type unless somebody says otherwise, and from how many records on it is asked. */
export function ReachSettingsPart() {
  const { me, recordType, documentType } = useMe();
  const notices = useNotices();
  const client = useQueryClient();
  const known = useQuery({ queryKey: ["reach-settings"], queryFn: ({ signal }) => apiGet<ReachSettings>("/settings/reach", signal) });
  const [draft, setDraft] = useState<{ readonly askAbove: string; readonly types: ReachSettings["types"] } | null>(null);
  const save = useMutation({
    mutationFn: (next: ReachSettings) => apiSend("PUT", "/settings/reach", next),
    onSuccess: () => {
      setDraft(null);
      notices.done("Saved", { more: "It applies to documents clipped from now on." });
      void client.invalidateQueries({ queryKey: ["reach-settings"] });
      void client.invalidateQueries({ queryKey: ["reach"] });
    },
    onError: notices.wrong,
  });
  if (!known.data) return null;
  const now = draft ?? { askAbove: String(known.data.askAbove), types: known.data.types };
  const next = reachSettingsSchema.safeParse({ askAbove: Number(now.askAbove || "x"), types: now.types });
  const setType = (key: string, reach: readonly string[]): void =>
    setDraft({
      ...now,
      types: {
        ...Object.fromEntries(Object.entries(now.types).filter(([k]) => k !== key)),
        ...(reach.length > 0 ? { [key]: [...reach] } : {}),
      },
    });
  const reaching = me.documentTypes.filter((t) => (now.types[t.key] ?? []).length > 0);
  return (
    <section className="mb-5" aria-labelledby="reach-settings-title">
      <h2 id="reach-settings-title" className="mb-1">
        Also shown on
      </h2>
      <p className="text-2">
        A document is shown on the record it is clipped to. Documents of these types are also shown on related records; this can be changed
        for each clip.
      </p>
      <div style={{ maxWidth: 720 }}>
        {reaching.map((t) => (
          <div key={t.key} className="field-row">
            <span className="text-2">{t.plural}</span>
            <div className="d-flex flex-wrap gap-2 align-items-center">
              {(now.types[t.key] ?? []).map((r) => (
                <span key={r} className="chip">
                  {recordType(r)?.plural ?? r}{" "}
                  <button
                    type="button"
                    className="btn btn-quiet btn-sm p-0"
                    aria-label={`${t.plural} no longer on ${recordType(r)?.plural ?? r}`}
                    onClick={() =>
                      setType(
                        t.key,
                        (now.types[t.key] ?? []).filter((x) => x !== r),
                      )
                    }
                  >
                    <X size={14} />
                  </button>
                </span>
              ))}
              <AddType
                label={`${t.plural} also on`}
                words="add …"
                options={me.recordTypes.filter((r) => !(now.types[t.key] ?? []).includes(r.key))}
                onAdd={(r) => setType(t.key, [...(now.types[t.key] ?? []), r])}
              />
            </div>
          </div>
        ))}
        <div className="field-row">
          <label htmlFor="reach-another">Add document type</label>
          <Form.Select
            id="reach-another"
            size="sm"
            style={{ maxWidth: 260 }}
            value=""
            onChange={(e) => {
              const usual = documentType(e.target.value)?.usualFor ?? [];
              const first = me.recordTypes.find((r) => !usual.includes(r.key));
              if (first) setType(e.target.value, [first.key]);
            }}
          >
            <option value="">choose …</option>
            {me.documentTypes
              .filter((t) => !reaching.includes(t))
              .map((t) => (
                <option key={t.key} value={t.key}>
                  {t.plural}
                </option>
              ))}
          </Form.Select>
        </div>
        <div className="field-row">
          <label htmlFor="reach-ask">Ask above</label>
          <div className="d-flex align-items-center gap-2">
            <Form.Control
              id="reach-ask"
              size="sm"
              className="mono"
              style={{ width: 110 }}
              inputMode="numeric"
              value={now.askAbove}
              isInvalid={!next.success}
              onChange={(e) => setDraft({ ...now, askAbove: e.target.value })}
            />
            <span className="text-2">records</span>
          </div>
        </div>
        {draft ? (
          <div className="d-flex gap-2">
            <Button size="sm" disabled={!next.success || save.isPending} onClick={() => next.success && save.mutate(next.data)}>
              Save
            </Button>
            <Button size="sm" variant="plain" onClick={() => setDraft(null)}>
              Reset
            </Button>
          </div>
        ) : null}
      </div>
    </section>
  );
}

function AddType({
  label,
  words,
  options,
  onAdd,
}: {
  label: string;
  words: string;
  options: readonly { readonly key: string; readonly plural: string }[];
  onAdd: (key: string) => void;
}) {
  return (
    <Form.Select
      size="sm"
      style={{ width: 150, flex: "none" }}
      aria-label={label}
      value=""
      onChange={(e) => e.target.value !== "" && onAdd(e.target.value)}
    >
      <option value="">{words}</option>
      {options.map((o) => (
        <option key={o.key} value={o.key}>
          {o.plural}
        </option>
      ))}
    </Form.Select>
  );
}
