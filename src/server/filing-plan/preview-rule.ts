import { sql, type SQL } from "drizzle-orm";
import { allowsAnywhere } from "#core/access/grants.ts";
import { reservoirSample, type Chooser, topBy, those } from "#core/filing-plan/choose-samples.ts";
import { decideFolder, type FolderProposal, ruleFor } from "#core/filing-plan/decide-folder.ts";
import { type FoldedPlaces, foldedPlaces } from "#core/filing-plan/folded-places.ts";
import { checkFolderRule, type FolderRule } from "#core/filing-plan/folder-rule.ts";
import { foldName, legalName, type NamingLimits, UTF8_MOST, utf8Bytes, withoutNumber } from "#core/filing-plan/legal-name.ts";
import { type FieldError, ok, refuse, type Result } from "#core/shared/result.ts";
import { recordFilter } from "../access/filters.ts";
import { db, type Tx } from "../db/connect.ts";
import type { Actor } from "../people/load-actor.ts";
import { loadDocumentTypes, loadRecordType } from "../records/load-types.ts";
import { loadRules } from "./load-rules.ts";
import { type ConnectionInUse, listConnectionsInUse } from "./open-repository.ts";
import { type OwnFolder, type PlanRecord, readPlanRecords } from "./read-plan-records.ts";
import { settleFolder } from "./settle-folder.ts";

/** What one real record would get. */
export interface RuleSample {
  readonly key: string;
  readonly title: string;
  readonly company: string;
  readonly connection: string;
  readonly segments: readonly string[];
  readonly papers: number;
  readonly unassigned: boolean;
  /** Where its folder is now; null when it has none. */
  readonly now: string | null;
}

export interface RulePreview {
  readonly errors: readonly FieldError[];
  readonly records: number;
  readonly samples: readonly RuleSample[];
  /** Records whose folders would be one and the same; they are told apart by the field or a number. */
  readonly clashes: readonly { readonly path: string; readonly keys: readonly string[]; readonly toldApart: boolean }[];
  readonly clashCount: number;
  /** Names that could not be used as they are: characters taken out, cut, or reserved. */
  readonly changed: readonly { readonly key: string; readonly name: string; readonly becomes: string }[];
  readonly changedCount: number;
  readonly tooLong: number;
  readonly tooLongKeys: readonly string[];
  /** What saving it with its moves would move, as far as is known without drawing the plan. */
  readonly moves: { readonly folders: number; readonly documents: number };
}

/** Which records the preview shows folders of. */
export type Sample = "recent" | "random" | "odd" | "chosen";

const SAMPLES = 8;
const LISTED = 20;

/** Keys of namesakes that are shown of each clash. */
const KEYS_SHOWN = 6;

interface Clash {
  readonly segments: readonly string[];
  readonly keys: string[];
  toldApart: boolean;
}

/** The first record that would get a folder. */
interface Place {
  readonly key: string;
  readonly toldApart: boolean;
  clash: Clash | null;
}

/** The folders that real records would get by a rule that is not saved yet, with namesakes, illegal and over-long names over all records the person may see. */
export async function previewRule(
  actor: Actor,
  typeKey: string,
  rule: FolderRule,
  sample: Sample,
  seed: number,
  company?: string,
  chosenKeys: readonly string[] = [],
): Promise<Result<RulePreview>> {
  if (!allowsAnywhere(actor.grants, "plan")) return refuse("not-allowed");
  const type = await loadRecordType(typeKey);
  if (!type) return refuse("unknown-type");
  const connections = await listConnectionsInUse();
  const errors = checkFolderRule(rule, type, {
    connections: connections.map((c) => c.key),
    documentTypes: (await loadDocumentTypes()).map((t) => t.key),
  });
  const scope: SQL = sql`record.type = ${typeKey} and ${recordFilter(actor)} and ${company === undefined ? sql`true` : sql`record.company = ${company}`}`;
  const nothing = { samples: [], clashes: [], clashCount: 0, changed: [], changedCount: 0, tooLong: 0, tooLongKeys: [] };
  if (errors.length > 0) return ok({ errors, records: await countRecords(scope), ...nothing, moves: { folders: 0, documents: 0 } });
  const limitsFor = limitsByKey(connections);
  const places = foldedPlaces<Place>();
  const clashes: Clash[] = [];
  const changed: { key: string; name: string; becomes: string }[] = [];
  const tooLongKeys: string[] = [];
  const chooser = await chooserFor(sample, seed, chosenKeys, scope);
  let records = 0;
  let changedCount = 0;
  let tooLong = 0;
  let folders = 0;
  let documents = 0;
  for await (const portion of readPlanRecords(scope, fieldsUsed(rule)))
    for (const row of portion) {
      records++;
      const proposal = decideFolder(row, rule, parentOf(row, rule), limitsFor(ruleFor(row, rule).connection));
      const limits = limitsFor(proposal.connection);
      const { segments } = proposal;
      const place: Place = { key: row.key, toldApart: proposal.toldApart !== null, clash: null };
      const first = places.keep(proposal.connection, segments, place);
      if (first) {
        if (!first.clash) clashes.push((first.clash = { segments, keys: [first.key], toldApart: first.toldApart }));
        if (first.clash.keys.length < KEYS_SHOWN) first.clash.keys.push(row.key);
        first.clash.toldApart &&= place.toldApart;
      }
      if (isTooLong(segments, limits)) {
        tooLong++;
        if (tooLongKeys.length < LISTED) tooLongKeys.push(row.key);
      }
      const own = segments.at(-1) ?? "";
      const plain = plainName(row, own, limits);
      if (plain !== null) {
        changedCount++;
        if (changed.length < LISTED) changed.push({ key: row.key, name: plain, becomes: own });
      }
      const oddness =
        own.length +
        (plain === null ? 0 : 500) +
        (proposal.unassigned ? 120 : 0) +
        (segments.includes("undated") ? 150 : 0) +
        (first ? 400 : 0);
      chooser.offer(row, oddness);
      if (row.folder && !isInStep(row.folder, proposal)) {
        folders++;
        documents += row.folder.papers;
      }
    }
  const samples: RuleSample[] = [];
  for (const row of chooser.chosen()) samples.push(await sampleOf(row, rule, limitsFor, places));
  samples.sort((a, b) => a.segments.join("/").localeCompare(b.segments.join("/")));
  return ok({
    errors,
    records,
    samples,
    clashes: clashes
      .slice(0, LISTED)
      .map(({ segments, keys, toldApart }) => ({ path: segments.join("/").replace(/^#\d+\//, "… / "), keys, toldApart })),
    clashCount: clashes.length,
    changed,
    changedCount,
    tooLong,
    tooLongKeys,
    moves: { folders, documents },
  });
}

/** A record with the folder it would really get: under a folder above that is still to be made, and told apart where it is not the first. */
async function sampleOf(
  row: PlanRecord,
  rule: FolderRule,
  limitsFor: (connection: string) => NamingLimits,
  places: FoldedPlaces<Place>,
): Promise<RuleSample> {
  const limits = limitsFor(ruleFor(row, rule).connection);
  const parent = parentOf(row, rule);
  const place = decideFolder(row, rule, parent, limits);
  const settled = row.parent === null && parent !== null && row.parentId !== null ? await settleFolder(db(), row.parentId, false) : null;
  const proposal = settled === null ? place : decideFolder(row, rule, settled.ok ? settled.value.segments : null, limits);
  const first = places.get(place.connection, place.segments);
  const isSecond = first !== undefined && first.clash !== null && first.key !== row.key;
  return {
    key: row.key,
    title: row.title,
    company: row.company,
    connection: place.connection,
    segments: isSecond && proposal.toldApart ? proposal.toldApart : proposal.segments,
    papers: row.folder?.papers ?? 0,
    unassigned: proposal.unassigned,
    now: row.folder?.path ?? null,
  };
}

/** Fields of records that a rule speaks of; all others need not be read. */
export function fieldsUsed(rule: FolderRule): readonly string[] {
  const texts = [rule.folderName, rule.fileName, ...Object.values(rule.fileNames), ...rule.variants.map((v) => v.folderName ?? "")];
  const named = texts.flatMap((t) =>
    [...t.matchAll(/\{([^{}]*)\}/g)].flatMap((m) => (m[1] ?? "").split("|").map((c) => (c.split(":")[0] ?? "").trim())),
  );
  return [
    ...new Set(
      [
        ...named.map((f) => f.replace(/^record\./, "")),
        rule.groupedBy?.field ?? "",
        rule.tellApart ?? "",
        ...rule.variants.flatMap((v) => [v.groupedBy?.field ?? "", ...v.when.map((c) => c.field)]),
      ].filter((f) => /^[a-z][A-Za-z0-9]*$/.test(f)),
    ),
  ];
}

/** Naming limits by connection, without asking for each record. */
export function limitsByKey(connections: readonly ConnectionInUse[]): (key: string) => NamingLimits {
  const known = new Map(connections.map((c) => [c.key, c.limits]));
  const first = connections[0]?.limits;
  return (key) => {
    const limits = known.get(key) ?? first;
    if (!limits) throw new Error("no connection");
    return limits;
  };
}

async function countRecords(scope: SQL): Promise<number> {
  return (await db().execute<{ n: number }>(sql`select count(*)::int as n from record where ${scope}`)).rows[0]?.n ?? 0;
}

/** The folder above as the rule takes it; that of a record which has none yet stands for itself: what is beneath different ones never clashes. */
function parentOf(row: PlanRecord, rule: FolderRule): readonly string[] | null {
  return row.parentId === null || !ruleFor(row, rule).inside ? null : (row.parent ?? [`#${row.parentId}`]);
}

function isTooLong(segments: readonly string[], limits: NamingLimits): boolean {
  let length = segments.length - 1;
  for (const s of segments) length += s.length;
  return length * UTF8_MOST > limits.pathBytesMax && utf8Bytes(segments.join("/")) > limits.pathBytesMax;
}

/** Whether a record's folder is where a rule would have it, with or without what tells it apart. */
function isInStep(folder: OwnFolder, proposal: FolderProposal): boolean {
  if (folder.connection !== proposal.connection) return false;
  const plain = proposal.segments.join("/");
  const apart = proposal.toldApart?.join("/");
  const bare = withoutNumber(folder.path);
  return folder.path === plain || folder.path === apart || bare === plain || bare === apart;
}

/** The name before it was made legal, when that changed more than its form; null when it is as it was. */
function plainName(row: PlanRecord, own: string, limits: NamingLimits): string | null {
  const source = [row.title, ...Object.values(row.fields)].find(
    (v): v is string => typeof v === "string" && v !== own && legalName(v, limits) === own,
  );
  return source !== undefined && foldName(source) !== foldName(own) ? source : null;
}

async function chooserFor(sample: Sample, seed: number, keys: readonly string[], scope: SQL): Promise<Chooser<PlanRecord>> {
  if (sample === "odd") return topBy(SAMPLES);
  if (sample === "random") return reservoirSample(SAMPLES, seed);
  if (sample === "chosen") return those(SAMPLES * 2, (r) => keys.includes(r.key));
  const { rows } = await db().execute<{ id: number }>(
    sql`select record.id from record where ${scope} order by record.used_at desc, record.id limit ${SAMPLES}`,
  );
  return those(SAMPLES, (r) => rows.some((used) => used.id === r.id));
}

/** The filing plan: each record type with its rule, and how many of its records this person may see. */
export async function listPlan(actor: Actor, tx: Tx = db()) {
  const rules = await loadRules(tx);
  const counts = await tx.execute<{ type: string; count: number }>(
    sql`select record.type, count(*)::int as count from record where ${recordFilter(actor)} group by record.type`,
  );
  return {
    rules: [...rules.values()].map((r) => ({ ...r, madeAt: r.madeAt.toISOString() })),
    counts: Object.fromEntries(counts.rows.map((c) => [c.type, c.count])),
    connections: (await listConnectionsInUse(tx)).map(({ key, label, kind }) => ({ key, label, kind })),
  };
}
