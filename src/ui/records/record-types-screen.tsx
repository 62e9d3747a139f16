"use client";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { Button } from "react-bootstrap";
import { Paperclip, Upload } from "react-bootstrap-icons";
import { Where } from "../frame/top-slot.tsx";
import { apiGet, queryOf, wordsOf } from "../kit/api.ts";
import { Icon } from "../kit/icon.tsx";
import { Link } from "../kit/link.tsx";
import { Skeletons, Trouble } from "../kit/parts.tsx";
import { useMe } from "../people/me-context.tsx";
import { ImportDialog } from "./import-dialog.tsx";
import { LookUp } from "./look-up.tsx";
import { recordHref } from "./record-href.ts";
import { useRouter } from "next/navigation";

interface Count {
  readonly type: string;
  readonly records: number;
  readonly papers: number;
}

/** Records by type, with counts. */
export function RecordTypesScreen() {
  const { me, company } = useMe();
  const router = useRouter();
  const [importing, setImporting] = useState(false);
  const counts = useQuery({
    queryKey: ["recordCounts", company],
    queryFn: ({ signal }) => apiGet<{ items: Count[] }>(`/records/counts${queryOf({ company })}`, signal),
  });
  const missing = useQuery({
    queryKey: ["missing", "counts", "", company, ""],
    queryFn: ({ signal }) => apiGet<{ types: { type: string; missing: number }[] }>(`/checklists/counts${queryOf({ company })}`, signal),
  });
  const lacking = new Map(missing.data?.types.flatMap((t) => (t.missing > 0 ? [[t.type, t.missing] as const] : [])));
  const byType = new Map(counts.data?.items.map((c) => [c.type, c]));
  const group = (kind: "standing" | "passing") => me.recordTypes.filter((t) => t.kind === kind && byType.has(t.key));
  return (
    <div className="scroll">
      <Where title="Records" />
      <div className="page">
        <div className="d-flex gap-3 mb-4 align-items-center">
          <div style={{ flex: "0 1 460px" }}>
            <LookUp
              company={company}
              onChoose={(hit) => router.push(recordHref(hit))}
              placeholder="Open a record: number, name or any field"
            />
          </div>
          <Link className="btn btn-plain ms-auto" href="/records/missing">
            <Paperclip /> Missing documents
          </Link>
          {me.may.import ? (
            <Button variant="plain" onClick={() => setImporting(true)}>
              <Upload /> Import CSV
            </Button>
          ) : null}
        </div>
        {counts.isPending ? (
          <Skeletons rows={8} height={44} />
        ) : counts.isError ? (
          <Trouble {...wordsOf(counts.error)} again={() => void counts.refetch()} />
        ) : byType.size === 0 ? (
          <p className="text-2">
            No records yet. They come from the business system through the HTTP API{me.may.import ? ", or from a CSV file" : ""}.
          </p>
        ) : (
          (["standing", "passing"] as const).map((kind) => (
            <section key={kind} className="mb-4">
              <div className="d-flex border-bottom pb-1" style={{ borderColor: "var(--ink-1)" }}>
                <h2>{kind === "standing" ? "Master records" : "Transactions"}</h2>
                <span className="text-2 ms-2 align-self-end">
                  {kind === "standing" ? "live for years and gather documents" : "single events"}
                </span>
              </div>
              {group(kind).map((t) => {
                const c = byType.get(t.key);
                return (
                  <Link key={t.key} href={`/records/${t.key}`} className="type-row is-wide">
                    <Icon name={t.icon} size={18} />
                    <strong>{t.plural}</strong>
                    <span className="num">{c?.records.toLocaleString("en-GB")}</span>
                    <span className="num text-2">
                      {c?.papers.toLocaleString("en-GB")} <span style={{ fontFamily: "var(--bs-body-font-family)" }}>documents</span>
                    </span>
                    <span className="num text-2">
                      {lacking.has(t.key) ? (
                        <>
                          {lacking.get(t.key)?.toLocaleString("en-GB")}{" "}
                          <span style={{ fontFamily: "var(--bs-body-font-family)" }}>incomplete</span>
                        </>
                      ) : null}
                    </span>
                  </Link>
                );
              })}
            </section>
          ))
        )}
      </div>
      <ImportDialog shown={importing} onHide={() => setImporting(false)} />
    </div>
  );
}
