import type { PaperLine } from "../reading/read-rows.ts";
import type { RecordLine } from "../records/record-line.ts";
import { matchLines } from "./match-lines.ts";
import { quantitiesAgree, type Tolerance } from "./tolerance.ts";

/** A line of a delivery note beside that of the order. */
export interface DeliveredLine {
  readonly text: string;
  readonly unit: string | null;
  readonly delivered: string | null;
  readonly ordered: string | null;
  /** Received before this delivery; null where no receipt says. */
  readonly receivedBefore: string | null;
  readonly difference: string | null;
  readonly state: "same" | "within" | "short" | "over" | "missing" | "unordered";
  readonly page: number | null;
  readonly box: PaperLine["box"];
}

/** What the document says of the record's own fields. */
export interface ComparedField {
  readonly field: string;
  readonly paper: string;
  readonly record: string;
  readonly isSame: boolean;
}

export interface DeliveryCompared {
  readonly kind: "delivery";
  readonly lines: readonly DeliveredLine[];
  readonly fields: readonly ComparedField[];
  readonly verdict: "fits" | "within" | "differs" | "cannot-tell";
}

const number = (text: string | null | undefined): number | null => (text == null || text === "" ? null : Number(text));

/**
 * Lays a delivery note or packing list beside its order or booking: line by line where the record has lines, and by what both say of vessel, day and
 * reference. Pure and total. Rule: docs/rules.md#comparing
 */
export function compareDelivery(asked: {
  readonly paper: readonly PaperLine[];
  readonly ordered: readonly RecordLine[];
  readonly receipts: readonly (readonly RecordLine[])[];
  readonly fields: readonly Omit<ComparedField, "isSame">[];
  readonly tolerance: Tolerance;
}): DeliveryCompared {
  const fields = asked.fields.map((f) => ({ ...f, isSame: f.paper === f.record }));
  const comparable = (l: { readonly item?: string | undefined; readonly text: string; readonly quantity?: string | null | undefined }) => ({
    item: l.item,
    text: l.text,
    quantity: number(l.quantity),
    price: null,
  });
  const ofOrder = asked.ordered.map(comparable);
  const pairs = asked.ordered.length === 0 ? new Map<number, number>() : matchLines(asked.paper.map(comparable), ofOrder);
  const before = asked.receipts.some((r) => r.length > 0)
    ? ofOrder.map((_, j) =>
        asked.receipts.reduce((s, list) => {
          const hit = [...matchLines(list.map(comparable), ofOrder)].find(([, to]) => to === j);
          return s + (hit ? (number(list[hit[0]]?.quantity) ?? 0) : 0);
        }, 0),
      )
    : null;
  const shown =
    asked.ordered.length === 0
      ? []
      : asked.paper.map((line, i): DeliveredLine => {
          const j = pairs.get(i);
          const ordered = j === undefined ? undefined : asked.ordered[j];
          const base = {
            text: line.text,
            unit: line.unit ?? ordered?.unit ?? null,
            delivered: line.quantity,
            page: line.page,
            box: line.box,
          };
          if (!ordered || j === undefined) return { ...base, ordered: null, receivedBefore: null, difference: null, state: "unordered" };
          const [now, all] = [number(line.quantity), number(ordered.quantity)];
          const receivedBefore = before ? String(before[j] ?? 0) : null;
          if (now === null || all === null)
            return { ...base, ordered: ordered.quantity ?? null, receivedBefore, difference: null, state: "same" };
          const agree = quantitiesAgree(now, all, asked.tolerance);
          return {
            ...base,
            ordered: ordered.quantity ?? null,
            receivedBefore,
            difference: String(Math.round((now - all) * 1000) / 1000),
            state: agree === "apart" ? (now < all ? "short" : "over") : agree,
          };
        });
  const found = new Set(pairs.values());
  const missing =
    asked.paper.length === 0
      ? []
      : asked.ordered.flatMap((ordered, j): DeliveredLine[] =>
          found.has(j)
            ? []
            : [
                {
                  text: ordered.text,
                  unit: ordered.unit ?? null,
                  delivered: null,
                  ordered: ordered.quantity ?? null,
                  receivedBefore: before ? String(before[j] ?? 0) : null,
                  difference: null,
                  state: "missing",
                  page: null,
                  box: null,
                },
              ],
        );
  const lines = [...shown, ...missing];
  const isWrong = lines.some((l) => l.state !== "same" && l.state !== "within") || fields.some((f) => !f.isSame);
  return {
    kind: "delivery",
    lines,
    fields,
    verdict:
      lines.length + fields.length === 0
        ? "cannot-tell"
        : isWrong
          ? "differs"
          : lines.some((l) => l.state === "within")
            ? "within"
            : "fits",
  };
}
