"use client";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useRouter } from "next/navigation";
import { parseAsArrayOf, parseAsString, useQueryStates } from "nuqs";
import { useRef } from "react";
import { Button } from "react-bootstrap";
import { ArrowClockwise, ArrowCounterclockwise, Check2All, CheckLg, FileEarmarkMinus, Scissors, Trash3 } from "react-bootstrap-icons";
import { cutBetween, pageKey } from "#core/bench/bench-table.ts";
import { propertiesFromReadings } from "#core/documents/fill-from-readings.ts";
import { prefillProperties } from "#core/documents/prefill-properties.ts";
import type { BenchAnswer } from "#server/bench/load-bench.ts";
import type { ApartAnswer } from "#server/bench/take-apart.ts";
import { Where } from "../frame/top-slot.tsx";
import { apiGet, apiSend, queryOf, wordsOf } from "../kit/api.ts";
import { Columns } from "../kit/columns.tsx";
import { Link } from "../kit/link.tsx";
import { useNotices } from "../kit/notices.tsx";
import { Empty, Skeletons, Trouble } from "../kit/parts.tsx";
import { useKeys } from "../kit/use-keys.ts";
import { countText } from "../kit/words.ts";
import { useMe } from "../people/me-context.tsx";
import type { LookUpHandle } from "../records/look-up.tsx";
import { recordQuery } from "../records/record-query.ts";
import { BenchLines } from "./bench-lines.tsx";
import { PageUpClose } from "./page-up-close.tsx";
import { pileState } from "./pile-proposal.ts";
import { forgetBench, useBench } from "./use-bench.ts";
import { usePileSuggestions } from "./use-pile-suggestions.ts";

/** While pages are being looked at, what is known of them is asked for again so often, ms. */
const LOOK_EVERY_MS = 2_000;

/** The bench: where pages are taken apart, turned, put in order and put together again. */
export function BenchScreen() {
  const [{ arrivals, documents }] = useQueryStates({
    arrivals: parseAsArrayOf(parseAsString).withDefault([]),
    documents: parseAsArrayOf(parseAsString).withDefault([]),
  });
  const name = [...arrivals, ...documents].join(",");
  const answer = useQuery({
    queryKey: ["bench", name],
    enabled: name !== "",
    staleTime: Infinity,
    queryFn: ({ signal }) =>
      apiGet<BenchAnswer>(`/bench${queryOf({ arrivals: arrivals.join(","), documents: documents.join(",") })}`, signal),
    refetchInterval: (q) => (q.state.data?.sources.some((s) => s.isComing) ? LOOK_EVERY_MS : false),
  });
  return (
    <>
      <Where title="Bench">
        {answer.data ? (
          <span className="text-2 text-truncate">
            {answer.data.sources
              .map((s) => s.document ?? s.fileName)
              .slice(0, 3)
              .join(", ")}
            {answer.data.sources.length > 3 ? ` and ${answer.data.sources.length - 3} more` : ""}
          </span>
        ) : null}
      </Where>
      {name === "" ? (
        <Empty icon={<Scissors size={34} />} title="The bench is empty">
          Select a document in Arrivals and press <kbd>B</kbd>, or select several to join them here.
          <div className="mt-3">
            <Link className="btn btn-plain" href="/arrivals">
              Go to Arrivals
            </Link>
          </div>
        </Empty>
      ) : null}
      {name !== "" && answer.isPending ? <Skeletons rows={4} height={180} /> : null}
      {answer.isError ? <Trouble {...wordsOf(answer.error)} again={() => void answer.refetch()} /> : null}
      {answer.data ? <BenchTable key={name} name={name} answer={answer.data} /> : null}
    </>
  );
}

function BenchTable({ name, answer }: { name: string; answer: BenchAnswer }) {
  const { me, documentType } = useMe();
  const notices = useNotices();
  const client = useQueryClient();
  const router = useRouter();
  const bench = useBench(answer, name);
  const lookUps = useRef(new Map<number, LookUpHandle>());
  const { table } = bench;
  const suggestions = usePileSuggestions(answer, table);
  const states = new Map(
    table.piles.map((p) => [p.id, pileState(bench.sheets[p.id], suggestions.found.get(p.id) ?? null, me.documentTypes)]),
  );
  const filing = table.piles.filter((p) => states.get(p.id)?.isFiled).length;
  const unchecked = table.piles.filter((p) => states.get(p.id)?.needsCheck);
  const confirm = (piles: readonly { readonly id: number }[]): void => {
    for (const { id } of piles) {
      const state = states.get(id);
      if (state?.needsCheck) bench.setSheet(id, state.sheet);
    }
  };
  const waiting = table.piles.flatMap((pile) => pile.pages.flatMap((p, i) => cutBetween(p, pile.pages[i + 1], answer.cuts) ?? []));
  const blanks = table.piles
    .flatMap((p) => p.pages)
    .filter((p) => answer.sources[p.source]?.pages[p.page - 1]?.blank)
    .map(pageKey);
  const isUntouched =
    table.dropped.length === 0 &&
    table.piles.length === answer.sources.length &&
    table.piles.every(
      (p, i) => p.pages.length === answer.sources[i]?.pages.length && p.pages.every((q, n) => q.page === n + 1 && q.turn === 0),
    );

  const out = useMutation({
    mutationFn: async () => {
      const parts = await Promise.all(
        table.piles.map(async (pile) => {
          const state = states.get(pile.id);
          const pages = pile.pages;
          if (!state?.isFiled) return { pages };
          const { sheet } = state;
          if (sheet.asVersion) return { pages, version: answer.sources[pages[0]?.source ?? 0]?.document ?? "" };
          if (!sheet.record || sheet.documentType === null) return { pages };
          const { record } = sheet;
          const { company, type, key } = record;
          const full = await client.fetchQuery(recordQuery(record));
          const properties = documentType(sheet.documentType)?.properties ?? [];
          const typed = {
            ...propertiesFromReadings(properties, state.readings),
            ...(sheet.number ? { documentNumber: sheet.number } : {}),
          };
          return {
            pages,
            file: {
              documentType: sheet.documentType,
              clips: [{ company, type, key }],
              properties: prefillProperties(properties, [full], typed),
            },
          };
        }),
      );
      const sources = answer.sources.map((s) => (s.arrival ? { arrival: s.arrival } : { document: s.document ?? "" }));
      return apiSend<ApartAnswer>("POST", "/bench", {
        sources,
        parts,
        dropped: table.dropped.map(({ source, page }) => ({ source, page })),
      });
    },
    onSuccess: (made) => {
      forgetBench(name);
      client.removeQueries({ queryKey: ["bench", name] });
      for (const key of ["arrivals", "arrivalCounts", "record", "document"]) void client.invalidateQueries({ queryKey: [key] });
      const filed = made.parts.filter((p) => p.code !== null);
      const troubled = made.parts.filter((p) => p.problem !== null);
      const left = made.parts.find((p) => p.code === null);
      const source = answer.sources.find((s) => s.arrival !== null)?.arrival;
      for (const part of troubled.slice(0, 2)) notices.wrong(new Error(`${part.fileName} stays in Arrivals: ${part.problem}`));
      notices.done(
        filed.length > 0 ? `${countText(filed.length, "document")} filed` : `${countText(made.parts.length, "document")} created`,
        {
          more: [
            filed.length > 0 && filed.length < made.parts.length
              ? `${countText(made.parts.length - filed.length, "more")} in Arrivals.`
              : "",
            "The originals stay in the register.",
          ]
            .filter(Boolean)
            .join(" "),
          ...(filed.length === 0 && source
            ? {
                undo: () =>
                  void apiSend("POST", `/arrivals/${source}/put-back`).then(() => {
                    void client.invalidateQueries({ queryKey: ["arrivals"] });
                    router.push(`/arrivals?at=${source}`);
                  }, notices.wrong),
              }
            : {}),
        },
      );
      router.push(left ? `/arrivals?at=${left.id}` : "/arrivals");
    },
    onError: notices.wrong,
  });
  const send = (): void => {
    if (!out.isPending && !(isUntouched && filing === 0)) out.mutate();
  };
  useKeys({
    ArrowRight: () => bench.go(1),
    j: () => bench.go(1),
    ArrowLeft: () => bench.go(-1),
    k: () => bench.go(-1),
    ArrowDown: () => bench.goPile(1),
    ArrowUp: () => bench.goPile(-1),
    c: () => bench.cutBefore(),
    m: () => bench.join(),
    t: () => bench.turn(),
    d: () => bench.drop(),
    Delete: () => bench.drop(),
    n: () => bench.ownPile(),
    x: () => bench.focusKey !== null && bench.point(bench.focusKey, { add: true }),
    ",": () => bench.nudge(-1),
    ".": () => bench.nudge(1),
    a: () => bench.accept(answer),
    z: bench.undo,
    "ctrl+z": bench.undo,
    y: bench.redo,
    "ctrl+y": bench.redo,
    Escape: bench.clear,
    f: send,
    o: () => confirm(unchecked.filter((pile) => pile.pages.some((q) => pageKey(q) === bench.focusKey))),
    "/": () => {
      const pile = table.piles.find((p) => p.pages.some((q) => pageKey(q) === bench.focusKey));
      if (pile) lookUps.current.get(pile.id)?.focus();
    },
  });
  const rest = table.piles.length - filing;
  const label =
    filing === 0
      ? `Create ${countText(table.piles.length, "document")}`
      : rest === 0
        ? `File all ${table.piles.length}`
        : `File ${filing}, leave ${rest} in Arrivals`;
  return (
    <Columns name="bench" grows={0} step={0} sides={{ 1: { start: 380, min: 260, max: 680 } }}>
      <section className="d-flex flex-column h-100" aria-label="Pages">
        <div className="bar" role="toolbar" aria-label="The bench">
          <Button variant="quiet" aria-label="Undo" title="Undo  Z" disabled={!bench.canUndo} onClick={bench.undo}>
            <ArrowCounterclockwise size={16} />
          </Button>
          <Button variant="quiet" aria-label="Redo" title="Do again  Y" disabled={!bench.canRedo} onClick={bench.redo}>
            <ArrowClockwise size={16} />
          </Button>
          <Button variant="plain" onClick={() => bench.turn()}>
            Turn <kbd>T</kbd>
          </Button>
          <Button variant="plain" onClick={bench.drop}>
            <Trash3 size={13} /> Leave out <kbd>D</kbd>
          </Button>
          {blanks.length > 0 ? (
            <Button variant="plain" onClick={() => bench.dropThese(new Set(blanks))}>
              <FileEarmarkMinus size={14} /> Leave out {countText(blanks.length, "blank page")}
            </Button>
          ) : null}
          <span className="ms-auto" />
          {answer.sources.some((s) => s.isComing) ? (
            <span className="text-2 small" role="status">
              Looking for document boundaries …
            </span>
          ) : null}
          {unchecked.length > 1 ? (
            <Button variant="plain" onClick={() => confirm(unchecked)}>
              <CheckLg size={14} /> Confirm {countText(unchecked.length, "suggestion")}
            </Button>
          ) : null}
          {waiting.length > 0 ? (
            <Button variant="plain" onClick={() => bench.accept(answer)}>
              <Check2All size={15} /> Apply {countText(waiting.length, "proposed cut")} <kbd>A</kbd>
            </Button>
          ) : null}
        </div>
        <BenchLines bench={bench} answer={answer} states={states} isReading={suggestions.isReading} lookUps={lookUps} />
        <div className="foot">
          <span className="text-2">
            {countText(table.piles.length, "document")} of {countText(table.piles.flatMap((p) => p.pages).length, "page")}
            {table.dropped.length > 0 ? `, ${table.dropped.length} left out` : ""}
            {bench.chosen.size > 1 ? ` · ${bench.chosen.size} selected` : ""}
          </span>
          <Button className="last" onClick={send} disabled={out.isPending || !me.may.file || (isUntouched && filing === 0)}>
            {out.isPending ? "Working …" : label} <kbd>F</kbd>
          </Button>
        </div>
      </section>
      <PageUpClose bench={bench} answer={answer} />
    </Columns>
  );
}
