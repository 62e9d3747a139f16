import { hundredths } from "../reading/parse-amount.ts";
import { shapeOf } from "../reading/identifiers.ts";
import type { Reading } from "../reading/reading.ts";
import type { ReferenceKind } from "../records/record-references.ts";
import { foldReference, foldText } from "../shared/fold-text.ts";
import { combineEvidence, numbering } from "./combine-evidence.ts";
import type { MatchHit, MatchPaper, MatchRecord, Reason } from "./match-types.ts";
import type { EvidenceKind, MatchWeights } from "./match-weights.ts";
import type { Place, Probe } from "./probe-paper.ts";

/** Share by which amounts may differ and still pass for rounding or carriage. */
const NEAR_SHARE = 0.02;
const FAR_SHARE = 0.25;
const closedWords = /^(closed|cancelled|canceled|void|rejected|withdrawn|archived)$/i;
/** All that names one very record. */
const naming: readonly EvidenceKind[] = ["said", "code", "thread", "titleNamed", ...numbering];
/** Share of what is known of the sender that counts for a record that nothing names. */
const UNNAMED = 0.35;

/** Evidence of one record: of each kind the strongest counts, once. */
export class Evidence {
  private readonly found = new Map<EvidenceKind, Reason>();
  constructor(private readonly weights: MatchWeights) {}
  put(kind: EvidenceKind, about: string, place: Place | null, share = 1): void {
    const weight = this.weights.of[kind] * share;
    const before = this.found.get(kind);
    if (before && Math.abs(before.weight) >= Math.abs(weight)) return;
    this.found.set(kind, {
      kind,
      about,
      text: place?.text ?? about,
      page: place?.page ?? null,
      box: place?.box ?? null,
      where: place?.where ?? "record",
      against: weight < 0,
      weight: Math.round(weight * 100) / 100,
    });
  }
  /** Whether something on the document names this very record. */
  isNamed(): boolean {
    return naming.some((kind) => this.found.has(kind));
  }
  has(kind: EvidenceKind): boolean {
    return this.found.has(kind);
  }
  sum(): number {
    return combineEvidence(new Map([...this.found].map(([kind, reason]) => [kind, reason.weight] as const))).sum;
  }
  reasons(): readonly Reason[] {
    return [...this.found.values()]
      .filter((r) => r.kind !== "base" && r.weight !== 0)
      .sort((a, b) => Math.abs(b.weight) - Math.abs(a.weight));
  }
}

/** The plainest place of several: a label that says so, then the page, near its top. */
function plainest(places: readonly Place[]): Place | undefined {
  const rank = (p: Place): number => (p.label === "order" ? 0 : p.label === "number" ? 1 : p.where === "page" ? 2 + p.depth : 4);
  return [...places].sort((a, b) => rank(a) - rank(b))[0];
}

/** What on the document names a record by one of its references. */
export function addNamedEvidence(
  evidence: Evidence,
  record: MatchRecord,
  hits: readonly MatchHit[],
  probes: ReadonlyMap<string, Probe>,
  usual: ReadonlySet<string>,
): void {
  for (const hit of hits) {
    const places = probes.get(`${hit.kind} ${hit.reference}`)?.places ?? [];
    for (const place of places) {
      const figures = hit.reference.replace(/\D/g, "").length;
      // Short numbers without letters stand on many documents by chance.
      const share = figures >= 4 || /[a-z]/.test(hit.reference) ? 1 : 0.4;
      const deep = place.where === "page" && place.label === null ? 1 - 0.3 * place.depth : 1;
      if (hit.kind === "key") {
        if (place.where === "fileName") evidence.put("keyInName", record.key, place, share);
        else if (place.where === "subject") evidence.put("subjectNamed", record.key, place, share);
        else if (place.label === "number") evidence.put("ownNumber", record.key, place, share * (usual.has(record.type) ? 1 : 0.7));
        else if (place.label === "customer") evidence.put(isAccount(record) ? "accountNamed" : "keyNamed", record.key, place, share);
        else if (place.label === "order") evidence.put("orderNamed", record.key, place, share);
        else if (!places.some((p) => p.label !== null)) evidence.put("keyNamed", record.key, place, share * deep);
      } else if (hit.kind === "shape" && !hits.some((h) => h.kind === "key")) {
        const isSame = shapeOf(foldReference(record.key)) === hit.reference;
        evidence.put(isSame ? "keyLike" : "keyNear", record.key, place, (place.label === "order" ? 1 : 0.45) * share);
      } else if (hit.kind === "digits" && !hits.some((h) => h.kind === "key") && (place.label === "order" || place.label === "customer")) {
        evidence.put("digitsNamed", record.key, place, share);
      } else if (hit.kind === "number") {
        evidence.put("numberNamed", record.key, place, (place.label === "number" ? 1.25 : place.label === "order" ? 1 : 0.45) * share);
      } else if (hit.kind === "yourReference") {
        evidence.put("referenceNamed", record.key, place, (place.label !== null ? 1 : 0.7) * share * (figures >= 3 ? 1 : 0.5));
      } else if (hit.kind === "batch") {
        evidence.put("referenceNamed", record.key, place, share);
      } else if (hit.kind === "order") {
        evidence.put("orderOfIt", record.key, place, (place.label === "order" ? 1 : 0.6) * share);
      } else if (hit.kind === "name" && record.isStanding && !isAccount(record) && place.where !== "sender") {
        // A vessel is named on every document of its voyage; a person or a thing is what the document is about.
        evidence.put(
          "titleNamed",
          record.title,
          place,
          (record.type === "vessel" ? 0.35 : place.text.includes(" ") ? 1 : 0.6) * (1 - 0.2 * place.depth),
        );
      }
    }
  }
}

/** An account that a document may be from. */
export interface Sender {
  readonly record: MatchRecord;
  readonly score: number;
  readonly by: readonly { readonly kind: EvidenceKind; readonly place: Place | undefined; readonly share: number }[];
}

/** Accounts that the document may be from, by what identifies them on it. */
export function sendersOf(
  records: readonly MatchRecord[],
  hitsOf: ReadonlyMap<number, readonly MatchHit[]>,
  probes: ReadonlyMap<string, Probe>,
  weights: MatchWeights,
): readonly Sender[] {
  const kinds: Partial<Record<ReferenceKind, EvidenceKind>> = {
    iban: "senderIban",
    vatNumber: "senderVat",
    mail: "senderMail",
    domain: "senderMail",
    name: "senderName",
  };
  return records
    .filter((r) => r.isStanding && (isAccount(r) || r.type === "contact"))
    .map((record) => {
      const by = (hitsOf.get(record.id) ?? []).flatMap((hit) => {
        const kind = kinds[hit.kind];
        if (!kind) return [];
        const place = plainest(probes.get(`${hit.kind} ${hit.reference}`)?.places ?? []);
        const share = hit.kind === "name" ? 1 - 0.5 * (place?.depth ?? 1) : 1;
        return [{ kind, place, share }];
      });
      const best = new Map<EvidenceKind, number>();
      for (const b of by) best.set(b.kind, Math.max(best.get(b.kind) ?? 0, weights.of[b.kind] * b.share));
      return { record, score: [...best.values()].reduce((s, w) => s + w, 0), by };
    })
    .filter((s) => s.by.length > 0)
    .sort((a, b) => b.score - a.score || (a.record.key < b.record.key ? -1 : 1));
}

/** What is known of whose document it is, for one record. */
export function addSenderEvidence(
  evidence: Evidence,
  record: MatchRecord,
  senders: readonly Sender[],
  surely: Sender | null,
  byId: ReadonlyMap<number, MatchRecord>,
): void {
  const own = senders.find((s) => s.record.id === record.id || s.record.id === record.parentId);
  // Whose document it is does not say which of their records it belongs to: without a number or a sum it says little of one of many.
  const told = record.isStanding || evidence.isNamed() || evidence.has("totalFits") || evidence.has("netFits") ? 1 : UNNAMED;
  if (own) for (const b of own.by) evidence.put(b.kind, own.record.title, b.place ?? null, b.share * told);
  const parent = record.parentId === null ? null : (byId.get(record.parentId) ?? null);
  const account = record.isStanding ? record : parent;
  if (
    surely &&
    account &&
    account.id !== surely.record.id &&
    isAccount(account) &&
    isAccount(surely.record) &&
    account.type === surely.record.type
  )
    // The same firm may have an account with each of our companies.
    evidence.put("otherSender", surely.record.title, surely.by[0]?.place ?? null, account.company !== surely.record.company ? 0.6 : 1);
}

/** Whether a record is the account of a customer or supplier. */
export const isAccount = (r: MatchRecord): boolean => r.type === "supplierAccount" || r.type === "customerAccount";

/** How the paper's sums stand to those of a record. */
export function addAmountEvidence(evidence: Evidence, record: MatchRecord, paper: MatchPaper): void {
  const at = (reading: Reading): Place => ({
    text: reading.text,
    page: reading.page,
    box: reading.box,
    where: "page",
    label: null,
    depth: 0,
  });
  const total = paper.readings.find((r) => r.field === "total");
  const net = paper.readings.find((r) => r.field === "net");
  const recordTotal = textOf(record.fields["total"]) ?? record.amount;
  const recordNet = textOf(record.fields["net"]);
  if (!total || recordTotal === null || record.isStanding || paper.listsInvoices === true) return;
  // The sum of a statement is that of many invoices: it says nothing of one that happens to be as large.
  const usual = paper.types.reduce(
    (s, t) => s + t.certainty * (t.usualFor.includes(record.type) ? 1 : t.usualFor.length > 0 ? 0.15 : 1),
    0,
  );
  const told = paper.types.reduce((s, t) => s + t.certainty, 0);
  const suits = told === 0 ? 1 : usual / told;
  const [mine, theirs] = [hundredths(total.value), hundredths(recordTotal)];
  if (theirs === 0 || !Number.isFinite(theirs)) return;
  if (mine === theirs) evidence.put("totalFits", recordTotal, at(total), Math.max(0.4, total.certainty) * suits);
  else if (recordNet !== null && net && hundredths(net.value) === hundredths(recordNet))
    evidence.put("netFits", recordNet, at(net), net.certainty * suits);
  else if (recordNet !== null && mine === hundredths(recordNet)) evidence.put("netFits", recordNet, at(total), total.certainty * suits);
  else {
    const share = Math.abs(mine - theirs) / Math.max(mine, theirs);
    if (share > FAR_SHARE) evidence.put("amountFar", recordTotal, at(total), total.certainty * suits);
    else if (share > NEAR_SHARE) evidence.put("amountOff", recordTotal, at(total), total.certainty * suits);
  }
}

/** What else speaks for or against a record: vessel, route, days, type, state, company, age. */
export function addCircumstanceEvidence(evidence: Evidence, record: MatchRecord, paper: MatchPaper): void {
  const vessel = textOf(record.fields["vessel"]);
  if (vessel !== null && vessel.length >= 4 && paper.folded.includes(foldText(vessel))) evidence.put("vesselNamed", vessel, null);
  const route = textOf(record.fields["route"]);
  if (route !== null && route.length >= 5 && paper.folded.includes(foldText(route))) evidence.put("routeNamed", route, null);
  for (const [field, reading] of [
    ["deliveryDate", "deliveryDate"],
    ["sailingDate", "sailingDate"],
    ["documentDate", "documentDate"],
  ] as const) {
    const day = textOf(record.fields[field]);
    const read = paper.readings.find((r) => r.field === reading);
    if (day !== null && read?.value === day)
      evidence.put(
        "dayFits",
        day,
        { text: read.text, page: read.page, box: read.box, where: "page", label: null, depth: 0 },
        read.certainty,
      );
  }
  const usual = paper.types.reduce(
    (s, t) => s + t.certainty * (t.usualFor[0] === record.type ? 1 : t.usualFor.includes(record.type) ? 0.6 : -1),
    0,
  );
  const sure = Math.min(1, Math.abs(usual));
  if (usual > 0.1) evidence.put("usualRecord", paper.types[0]?.type ?? "", null, sure);
  else if (usual < -0.1) evidence.put("oddRecord", paper.types[0]?.type ?? "", null, sure);
  if (record.status !== null && closedWords.test(record.status) && !record.isStanding) evidence.put("closed", record.status, null);
  const company = paper.addressed?.company ?? paper.company;
  if (company !== null) {
    if (record.company === company) evidence.put("companyFits", company, paper.addressed?.place ?? null);
    else evidence.put("otherCompany", company, paper.addressed?.place ?? null, paper.addressed ? 1 : 0.5);
  }
  if (record.date !== null && !record.isStanding) {
    const days = Math.abs(Date.parse(record.date) - Date.parse(paper.receivedOn)) / 86_400_000;
    if (days <= 120) evidence.put("recent", record.date, null);
    else if (days > 500) evidence.put("old", record.date, null);
  }
}

/** A field's text; null for what is none. */
export function textOf(value: unknown): string | null {
  return typeof value === "string" && value !== "" ? value : null;
}
