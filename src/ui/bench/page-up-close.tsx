"use client";
import { pageKey } from "#core/bench/bench-table.ts";
import type { BenchAnswer } from "#server/bench/load-bench.ts";
import type { Bench } from "./use-bench.ts";

/** The page one points at, large enough to read; and what is known of it. */
export function PageUpClose({ bench, answer }: { bench: Bench; answer: BenchAnswer }) {
  const page = bench.focusPage;
  const source = page ? answer.sources[page.source] : undefined;
  if (!page || !source) return <section className="d-flex flex-column h-100" aria-label="Page" />;
  const facts = source.pages[page.page - 1];
  const base = source.arrival ? `/arrivals/${source.arrival}` : `/documents/${source.document ?? ""}`;
  const codes = answer.codes.filter((c) => pageKey(c) === pageKey(page));
  const cut = answer.cuts.find((c) => c.source === page.source && c.afterPage === page.page - 1);
  const sideways = page.turn % 180 !== 0;
  const [width, height] = [facts?.width ?? 595, facts?.height ?? 842];
  return (
    <section className="d-flex flex-column h-100" aria-label="Page">
      <div className="bar">
        <strong className="text-truncate">{source.document ?? source.fileName}</strong>
        <span className="text-2 text-nowrap ms-auto">
          page {page.page} of {source.pages.length}
        </span>
      </div>
      {codes.length > 0 || cut || facts?.blank ? (
        <div className="px-3 py-2 small border-bottom" style={{ background: "var(--paper-0)" }}>
          {facts?.blank ? <div>This page is blank.</div> : null}
          {cut ? <div>A new document probably starts here: {cut.reason}.</div> : null}
          {codes.map((c) => (
            <div key={c.text}>
              <code>{c.text}</code>{" "}
              {c.sort === "separator"
                ? "separator sheet, left out"
                : c.record
                  ? `${c.record.key} ${c.record.title}${c.leftOut ? "; the cover sheet is left out" : ""}`
                  : "names a record that does not exist or that you may not see"}
            </div>
          ))}
        </div>
      ) : null}
      <div className="viewer" tabIndex={0} role="region" aria-label="Enlarged page">
        <div
          className="mx-auto"
          style={{ position: "relative", width: "100%", aspectRatio: sideways ? `${height} / ${width}` : `${width} / ${height}` }}
        >
          <img
            key={pageKey(page)}
            className="sheet-of-paper"
            src={`/api/v1${base}/pages/${page.page}.jpg?width=960&of=${source.of}`}
            alt={`Page ${page.page} of ${source.document ?? source.fileName}`}
            style={{
              position: "absolute",
              margin: 0,
              top: "50%",
              left: "50%",
              width: sideways ? `${(width / height) * 100}%` : "100%",
              aspectRatio: `${width} / ${height}`,
              transform: `translate(-50%, -50%) rotate(${page.turn}deg)`,
            }}
          />
        </div>
      </div>
    </section>
  );
}
