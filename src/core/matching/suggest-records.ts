import type { Clash, MatchHit, MatchPaper, MatchRecord, Suggested, Suggestion } from "./match-types.ts";
import type { MatchWeights } from "./match-weights.ts";
import type { Probe } from "./probe-paper.ts";
import {
  addAmountEvidence,
  addCircumstanceEvidence,
  Evidence,
  isAccount,
  addNamedEvidence,
  type Sender,
  addSenderEvidence,
  sendersOf,
  textOf,
} from "./weigh-record.ts";

/** From here on the program says that it is sure, unless something clashes. */
export const SURE_FROM = 0.95;
/** Suggestions kept of one document. */
const SHOWN = 5;
/** Log-odds against a record that a document about an account only lists. */
const LISTED_ONLY = 5;
/** Score of an account from which on it counts as the one a document is from. */
const SENDER_FROM = 2;
/** A clash keeps a suggestion below this. */
const CLASH_AT_MOST = 0.7;

/**
 * Records that a document may belong to, the likeliest first, each with what speaks for and against it. Certainties are probabilities over all of them
 * and "none of our records". Every reason points at what is there (promise 8). Pure: the same document and records give the same answer.
 */
export function suggestRecords(
  paper: MatchPaper,
  records: readonly MatchRecord[],
  hits: readonly MatchHit[],
  weights: MatchWeights,
): Suggested {
  const probes = probesOf(paper);
  const byId = new Map(records.map((r) => [r.id, r]));
  const hitsOf = byRecord(hits);
  const mostUsual = paper.types[0] && paper.types[0].certainty > 0.5 ? paper.types[0].usualFor : [];
  const usual = new Set(paper.types.filter((t) => t.certainty > 0.3).flatMap((t) => t.usualFor));
  const senders = sendersOf(records, hitsOf, probes, weights);
  const known = knownOf(senders);
  const surely = known !== null && known.score >= 2.8 && known.score - (senders[1]?.score ?? 0) > 1.5 ? known : null;
  const weighed = records.map((record) => {
    const evidence = new Evidence(weights);
    evidence.put("base", "", null);
    if (paper.saidId === record.id) evidence.put("said", record.key, null);
    for (const code of paper.codes) if (code.recordId === record.id) evidence.put("code", record.key, code.place);
    if (paper.thread?.includes(record.id)) evidence.put("thread", record.key, null);
    addNamedEvidence(evidence, record, hitsOf.get(record.id) ?? [], probes, usual);
    addAmountEvidence(evidence, record, paper);
    addSenderEvidence(evidence, record, senders, surely, byId);
    addCircumstanceEvidence(evidence, record, paper);
    return { record, evidence, logit: evidence.sum() };
  });
  // A statement lists what its account owes: what it names is not what it is about.
  const ofAccount =
    paper.listsInvoices === true ||
    (mostUsual.length > 0 && (paper.types[0]?.certainty ?? 0) > 0.7 && mostUsual.every((t) => t.endsWith("Account")));
  // An account stands above the records that the document names; beside them it is no answer of its own.
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

/** The account that a document is from, where that is known: what suggestRecords says of it, before anything else of the document is. */
export function senderOf(
  paper: Pick<MatchPaper, "probes">,
  records: readonly MatchRecord[],
  hits: readonly MatchHit[],
  weights: MatchWeights,
): number | null {
  return knownOf(sendersOf(records, byRecord(hits), probesOf(paper), weights))?.record.id ?? null;
}

const knownOf = ([first]: readonly Sender[]): Sender | null =>
  first && isAccount(first.record) && first.score >= SENDER_FROM ? first : null;
const probesOf = (paper: Pick<MatchPaper, "probes">): ReadonlyMap<string, Probe> =>
  new Map(paper.probes.map((p) => [`${p.kind} ${p.reference}`, p]));

function byRecord(hits: readonly MatchHit[]): ReadonlyMap<number, readonly MatchHit[]> {
  const of = new Map<number, MatchHit[]>();
  for (const hit of hits) {
    const known = of.get(hit.recordId);
    if (known) known.push(hit);
    else of.set(hit.recordId, [hit]);
  }
  return of;
}

/** Whether a paper's own number, labelled so, is that of a record: then the document is what was entered there. */
function isItsOwn(hits: readonly MatchHit[], probes: ReadonlyMap<string, Probe>): boolean {
  return hits.some(
    (h) =>
      (h.kind === "key" || h.kind === "number") && (probes.get(`${h.kind} ${h.reference}`)?.places ?? []).some((p) => p.label === "number"),
  );
}

/**
 * An invoice that was posted before its document came, and the order it follows from, are no rivals: the document belongs to the first and names the second.
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
  if (w.record.isStanding && mostUsual[0] !== w.record.type && strongest > 0 && hasChildren(w.record, all))
    return Math.min(w.logit, strongest - 5);
  const parent = w.record.type === "contact" ? all.find((o) => o.record.id === w.record.parentId) : undefined;
  return parent ? Math.min(w.logit, parent.logit - 1.5) : w.logit;
}

const tidy = (p: number): number => Math.round(Math.min(0.999, p) * 1000) / 1000;
const hasChildren = (account: MatchRecord, all: readonly Weighed[]): boolean =>
  all.some((o) => o.record.parentId === account.id && o.logit > 0);

function clashesOf(
  record: MatchRecord,
  evidence: Evidence,
  paper: MatchPaper,
  surely: Sender | null,
  byId: ReadonlyMap<number, MatchRecord>,
): Suggestion["clashes"] {
  const clashes: { code: Clash; detail: string }[] = [];
  const account = record.isStanding ? record : record.parentId === null ? null : (byId.get(record.parentId) ?? null);
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
