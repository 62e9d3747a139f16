import { hundredths } from "../reading/parse-amount.ts";
import type { Box } from "../reading/page-lines.ts";
import type { Reading } from "../reading/reading.ts";
import type { ReferenceKind } from "../records/record-references.ts";
import type { FieldValues } from "../records/record-type.ts";
import { foldReference, foldText } from "../shared/fold-text.ts";
import { shapeOf } from "../reading/identifiers.ts";
import { combineEvidence, numbering } from "./combine-evidence.ts";
import type { EvidenceKind, MatchWeights } from "./match-weights.ts";
import type { Place, Probe } from "./probe-paper.ts";

/** A record that may be the one, with what it is compared by. */
export interface MatchRecord {
  readonly id: number;
  readonly company: string;
  readonly type: string;
  readonly key: string;
  readonly title: string;
  readonly isStanding: boolean;
  readonly status: string | null;
  readonly date: string | null;
  readonly amount: string | null;
  readonly currency: string | null;
  readonly fields: FieldValues;
  readonly aboveId: number | null;
  readonly chainId: number | null;
}

/** A record and what named it on the paper. */
export interface MatchHit {
  readonly recordId: number;
  readonly kind: ReferenceKind;
  readonly reference: string;
}

/** A paper as matching sees it. */
export interface MatchPaper {
  readonly probes: readonly Probe[];
  readonly readings: readonly Reading[];
  /** Document types it may be, each with its probability and the record types it is usually clipped to, the most usual first. */
  readonly types: readonly { readonly type: string; readonly certainty: number; readonly usualFor: readonly string[] }[];
  /** The company it came in for, and the one its pages are addressed to; null when nothing says. */
  readonly company: string | null;
  readonly addressed: { readonly company: string; readonly place: Place } | null;
  readonly receivedOn: string;
  /** It seems to be several papers in one: then nothing is sure of the whole. */
  readonly isSeveral: boolean;
  /** Codes of filed papers with its number from its sender. */
  readonly doubles: readonly string[];
  /** Its words, folded, as one text: for vessels and routes. */
  readonly folded: string;
  /** Records said on the way in or by a barcode. */
  readonly saidId: number | null;
  readonly codes: readonly { readonly recordId: number; readonly place: Place }[];
}

/** Why, or why not: what it is and where on the paper it stands. */
export interface Reason {
  readonly kind: EvidenceKind;
  /** What of the record it is about, such as its number. */
  readonly about: string;
  readonly text: string;
  readonly page: number | null;
  readonly box: Box | null;
  readonly where: Place["where"] | "record";
  readonly against: boolean;
  /** Log-odds it added. */
  readonly weight: number;
}

/** What clashes: such a suggestion is never sure. */
export type Clash = "double" | "several-papers" | "other-sender" | "other-company" | "closed" | "amount-far" | "iban-differs" | "alike";

export interface Suggestion {
  readonly recordId: number;
  readonly certainty: number;
  readonly reasons: readonly Reason[];
  readonly clashes: readonly { readonly code: Clash; readonly detail: string }[];
}

export interface Suggested {
  readonly suggestions: readonly Suggestion[];
  /** Probability that it belongs to none of the records. */
  readonly none: number;
  /** The account that the paper is from, where that is known. */
  readonly senderId: number | null;
}

/** From here on the program says that it is sure, unless something clashes. */
export const SURE_FROM = 0.95;
/** Suggestions kept of one paper. */
const SHOWN = 5;
/** Log-odds against a record that a paper about an account only lists. */
const LISTED_ONLY = 5;
/** A clash keeps a suggestion below this. */
const CLASH_AT_MOST = 0.7;
/** Share by which amounts may differ and still pass for rounding or carriage. */
const NEAR_SHARE = 0.02;
const FAR_SHARE = 0.25;
const closedWords = /^(closed|cancelled|canceled|void|rejected|withdrawn|archived)$/i;

/**
 * Records that a paper may belong to, the likeliest first, each with what speaks for and against it. Certainties are probabilities over all of them
 * and "none of our records". Every reason points at what is there (promise 8). Pure: the same paper and records give the same answer.
 */
export function suggestRecords(
  paper: MatchPaper,
  records: readonly MatchRecord[],
  hits: readonly MatchHit[],
  weights: MatchWeights,
): Suggested {
  const probes = new Map(paper.probes.map((p) => [`${p.kind} ${p.reference}`, p]));
  const byId = new Map(records.map((r) => [r.id, r]));
  const hitsOf = new Map<number, MatchHit[]>();
  for (const hit of hits) hitsOf.set(hit.recordId, [...(hitsOf.get(hit.recordId) ?? []), hit]);
  const mostUsual = paper.types[0] && paper.types[0].certainty > 0.5 ? paper.types[0].usualFor : [];
  const usual = new Set(paper.types.filter((t) => t.certainty > 0.3).flatMap((t) => t.usualFor));
  const senders = sendersOf(records, hitsOf, probes, weights);
  const known = senders[0] && isAccount(senders[0].record) && senders[0].score >= 2 ? senders[0] : null;
  const surely = known !== null && known.score >= 2.8 && known.score - (senders[1]?.score ?? 0) > 1.5 ? known : null;
  const weighed = records.map((record) => {
    const evidence = new Evidence(weights);
    evidence.put("base", "", null);
    if (paper.saidId === record.id) evidence.put("said", record.key, null);
    for (const code of paper.codes) if (code.recordId === record.id) evidence.put("code", record.key, code.place);
    named(evidence, record, hitsOf.get(record.id) ?? [], probes, usual);
    amounts(evidence, record, paper);
    sender(evidence, record, senders, surely, byId);
    circumstances(evidence, record, paper);
    return { record, evidence, logit: evidence.sum() };
  });
  // A statement lists what its account owes: what it names is not what it is about.
  const ofAccount = mostUsual.length > 0 && (paper.types[0]?.certainty ?? 0) > 0.7 && mostUsual.every((t) => t.endsWith("Account"));
  // An account stands above the records that the paper names; beside them it is no answer of its own.
  const strongest = Math.max(-9, ...weighed.filter((w) => !w.record.isStanding).map((w) => w.logit));
  const options = weighed
    .map((w) => ({ ...w, logit: held(w, weighed, strongest, mostUsual) - (ofAccount && !isAccount(w.record) ? LISTED_ONLY : 0) }))
    .sort((a, b) => b.logit - a.logit || (a.record.key < b.record.key ? -1 : 1));
  const highest = Math.max(0, options[0]?.logit ?? 0);
  const sum = options.reduce((s, o) => s + Math.exp(o.logit - highest), Math.exp(-highest));
  const likely = options.slice(0, SHOWN).map((o) => ({ o, certainty: Math.exp(o.logit - highest) / sum }));
  const suggestions = postedFirst(likely, (r) => mostUsual.includes(r.type) && isItsOwn(hitsOf.get(r.id) ?? [], probes))
    .filter((s) => s.certainty >= 0.02)
    .map(({ o, certainty }, index, all) => {
      const clashes = clashesOf(o.record, o.evidence, paper, surely, byId);
      const next = all[index === 0 ? 1 : 0];
      const isAlike = index < 2 && next !== undefined && Math.abs(certainty - next.certainty) < 0.15 && next.certainty > 0.2;
      return {
        recordId: o.record.id,
        certainty: tidy(clashes.length > 0 ? Math.min(certainty, CLASH_AT_MOST) : certainty),
        reasons: o.evidence.reasons(),
        clashes: isAlike ? [...clashes, { code: "alike" as const, detail: next.o.record.key }] : clashes,
      };
    });
  return { suggestions, none: tidy(Math.exp(-highest) / sum), senderId: known?.record.id ?? null };
}

/** Whether a paper's own number, labelled so, is that of a record: then the paper is what was entered there. */
function isItsOwn(hits: readonly MatchHit[], probes: ReadonlyMap<string, Probe>): boolean {
  return hits.some(
    (h) =>
      (h.kind === "key" || h.kind === "number") && (probes.get(`${h.kind} ${h.reference}`)?.places ?? []).some((p) => p.label === "number"),
  );
}

/**
 * An invoice that was posted before its paper came, and the order it follows from, are no rivals: the paper belongs to the first and names the second.
 * Where the likeliest of a chain and the paper's own record are of one chain, the latter goes first, with what speaks for both.
 */
function postedFirst<T extends { readonly o: { readonly record: MatchRecord }; readonly certainty: number }>(
  likely: readonly T[],
  isOwn: (record: MatchRecord) => boolean,
): readonly T[] {
  const chain = likely[0]?.o.record.chainId ?? null;
  const mates = chain === null ? [] : likely.filter((s) => s.o.record.chainId === chain);
  const own = mates.filter((s) => isOwn(s.o.record) && s.certainty >= 0.1);
  const [one, other] = own;
  if (!one || other) return likely;
  const whole = mates.reduce((s, m) => s + m.certainty, 0);
  return [
    { ...one, certainty: Math.min(0.999, whole) },
    ...likely.filter((s) => !mates.includes(s)),
    ...mates.filter((m) => m !== one).map((m) => ({ ...m, certainty: 0.02 })),
  ];
}

interface Weighed {
  readonly record: MatchRecord;
  readonly logit: number;
}
/** A record's log-odds, held below those that go before it: records beneath an account, and the account of a contact. */
function held(w: Weighed, all: readonly Weighed[], strongest: number, mostUsual: readonly string[]): number {
  // A statement belongs to the account itself.
  if (w.record.isStanding && mostUsual[0] !== w.record.type && strongest > 0 && hasBeneath(w.record, all))
    return Math.min(w.logit, strongest - 5);
  const above = w.record.type === "contact" ? all.find((o) => o.record.id === w.record.aboveId) : undefined;
  return above ? Math.min(w.logit, above.logit - 1.5) : w.logit;
}

const tidy = (p: number): number => Math.round(Math.min(0.999, p) * 1000) / 1000;
const hasBeneath = (account: MatchRecord, all: readonly Weighed[]): boolean =>
  all.some((o) => o.record.aboveId === account.id && o.logit > 0);

/** All that names one very record. */
const naming: readonly EvidenceKind[] = ["said", "code", "titleNamed", ...numbering];
/** Share of what is known of the sender that counts for a record that nothing names. */
const UNNAMED = 0.35;

/** Evidence of one record: of each kind the strongest counts, once. */
class Evidence {
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
  /** Whether something on the paper names this very record. */
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

function named(
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
      // Short numbers without letters stand on many papers by chance.
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
        // A vessel is named on every paper of its voyage; a person or a thing is what the paper is about.
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

interface Sender {
  readonly record: MatchRecord;
  readonly score: number;
  readonly by: readonly { readonly kind: EvidenceKind; readonly place: Place | undefined; readonly share: number }[];
}

/** Accounts that the paper may be from, by what identifies them on it. */
function sendersOf(
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

function sender(
  evidence: Evidence,
  record: MatchRecord,
  senders: readonly Sender[],
  surely: Sender | null,
  byId: ReadonlyMap<number, MatchRecord>,
): void {
  const own = senders.find((s) => s.record.id === record.id || s.record.id === record.aboveId);
  // Whose paper it is does not say which of their records it belongs to: without a number or a sum it says little of one of many.
  const told = record.isStanding || evidence.isNamed() || evidence.has("totalFits") || evidence.has("netFits") ? 1 : UNNAMED;
  if (own) for (const b of own.by) evidence.put(b.kind, own.record.title, b.place ?? null, b.share * told);
  const above = record.aboveId === null ? null : (byId.get(record.aboveId) ?? null);
  const account = record.isStanding ? record : above;
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

const isAccount = (r: MatchRecord): boolean => r.type === "supplierAccount" || r.type === "customerAccount";

function amounts(evidence: Evidence, record: MatchRecord, paper: MatchPaper): void {
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
  if (!total || recordTotal === null || record.isStanding) return;
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

function circumstances(evidence: Evidence, record: MatchRecord, paper: MatchPaper): void {
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

function clashesOf(
  record: MatchRecord,
  evidence: Evidence,
  paper: MatchPaper,
  surely: Sender | null,
  byId: ReadonlyMap<number, MatchRecord>,
): Suggestion["clashes"] {
  const clashes: { code: Clash; detail: string }[] = [];
  const account = record.isStanding ? record : record.aboveId === null ? null : (byId.get(record.aboveId) ?? null);
  for (const code of paper.doubles.slice(0, 1)) clashes.push({ code: "double", detail: code });
  if (paper.isSeveral) clashes.push({ code: "several-papers", detail: "" });
  if (evidence.has("otherSender")) clashes.push({ code: "other-sender", detail: surely?.record.title ?? "" });
  if (evidence.has("otherCompany") && paper.addressed) clashes.push({ code: "other-company", detail: paper.addressed.company });
  if (evidence.has("closed")) clashes.push({ code: "closed", detail: record.status ?? "" });
  if (evidence.has("amountFar")) clashes.push({ code: "amount-far", detail: textOf(record.fields["total"]) ?? record.amount ?? "" });
  const ibans = paper.readings.filter((r) => r.field === "iban").map((r) => r.value);
  const own = account ? textOf(account.fields["iban"])?.replace(/\s/g, "").toUpperCase() : undefined;
  if (own && ibans.length > 0 && !ibans.includes(own)) clashes.push({ code: "iban-differs", detail: ibans[0] ?? "" });
  return clashes;
}

function textOf(value: unknown): string | null {
  return typeof value === "string" && value !== "" ? value : null;
}
