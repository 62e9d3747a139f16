"use client";
import { useQuery } from "@tanstack/react-query";
import type { OutOfSyncDocument } from "#server/repository/list-out-of-sync.ts";
import { apiGet, queryOf } from "../kit/api.ts";
import { Icon } from "../kit/icon.tsx";
import { Link } from "../kit/link.tsx";
import { countText } from "../kit/words.ts";
import { useMe } from "../people/me-context.tsx";
import { recordHref } from "../records/record-href.ts";

/** Documents listed before the rest is only counted. */
const SHOWN = 4;

/** Documents out of sync on the records that a person is responsible for. Nothing when there are none. */
export function OutOfSync() {
  const { company } = useMe();
  const found = useQuery({
    queryKey: ["outOfSync", company],
    queryFn: ({ signal }) =>
      apiGet<{ items: readonly OutOfSyncDocument[]; total: number }>(`/repository/out-of-sync${queryOf({ company })}`, signal),
  });
  const items = found.data?.items ?? [];
  if (items.length === 0) return null;
  return (
    <section className="mb-4" aria-labelledby="desk-out-of-sync">
      <h3 id="desk-out-of-sync" className="pb-1 mb-0" style={{ borderBottom: "1px solid var(--ink-1)" }}>
        Documents out of sync on your records
      </h3>
      {items.slice(0, SHOWN).map((d) => (
        <div key={d.code} className="type-row" style={{ gridTemplateColumns: "24px minmax(0, 1fr) auto" }}>
          <Icon name="broken" size={17} />
          <span style={{ minWidth: 0 }}>
            <Link href={`/documents/${d.code}`} className="fw-bold">
              {d.title}
            </Link>
            <span className="text-2 d-block text-truncate">
              <Link href={recordHref(d.record)} className="mono">
                {d.record.key}
              </Link>{" "}
              {d.record.title}
            </span>
          </span>
          <span className="chip rust">{d.why === "gone" ? "file missing" : "file changed"}</span>
        </div>
      ))}
      {(found.data?.total ?? 0) > SHOWN ? (
        <Link href="/repository?view=outOfSync" className="d-block mt-1">
          {countText((found.data?.total ?? 0) - SHOWN, "more document")}
        </Link>
      ) : null}
    </section>
  );
}
