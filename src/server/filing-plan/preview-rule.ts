import { sql, type SQL } from "drizzle-orm";
import { allowsAnywhere } from "#core/access/grants.ts";
import { decideFolder, ruleFor } from "#core/filing-plan/decide-folder.ts";
import { checkFolderRule, type FolderRule } from "#core/filing-plan/folder-rule.ts";
import { foldName, foldPath, legalName, type NamingLimits, utf8Bytes, withoutNumber } from "#core/filing-plan/legal-name.ts";
import type { FieldValues } from "#core/records/record-type.ts";
import { type FieldError, ok, refuse, type Result } from "#core/shared/result.ts";
import { recordFilter } from "../access/filters.ts";
import { db, type Tx } from "../db/connect.ts";
import type { Actor } from "../people/load-actor.ts";
import { loadDocumentTypes, loadRecordType } from "../records/load-types.ts";
import { loadRules } from "./load-plan.ts";
import { type ConnectionInUse, listConnectionsInUse } from "./open-repository.ts";
import { settleFolder } from "./settle-folder.ts";

export interface RulePreview {
  readonly errors: readonly FieldError[];
  readonly records: number;
  readonly samples: readonly {
    readonly key: string;
    readonly title: string;
    readonly company: string;
    readonly connection: string;
    readonly segments: readonly string[];
    readonly papers: number;
    readonly unassigned: boolean;
    /** Where its folder is now; null when it has none. */
    readonly now: string | null;
  }[];
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

interface PlanRecord {
  readonly id: number;
  readonly company: string;
  readonly key: string;
  readonly title: string;
  readonly status: string | null;
  readonly date: string | null;
  readonly fields: FieldValues;
  readonly aboveId: number | null;
  readonly abovePath: string | null;
  readonly path: string | null;
  readonly connection: string | null;
  readonly papers: number;
  readonly usedAt: number;
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
  const all = await loadPlanRecords(scope, fieldsUsed(rule));
  const limitsFor = limitsByKey(connections);
  const byPath = new Map<string, { path: string; keys: string[]; toldApart: boolean }>();
  const changed: { key: string; name: string; becomes: string }[] = [];
  const tooLongKeys: string[] = [];
  const oddness = new Map<number, number>();
  let changedCount = 0;
  let tooLong = 0;
  let folders = 0;
  let documents = 0;
  for (const row of all) {
    const holds = ruleFor(row, rule);
    const limits = limitsFor(holds.connection);
    // The folder of a record above that has none yet stands for itself: what is beneath different ones never clashes.
    const above = row.aboveId === null || !holds.inside ? null : (row.abovePath?.split("/") ?? [`#${row.aboveId}`]);
    const proposal = decideFolder(row, rule, above, limits);
    const path = proposal.segments.join("/");
    const folded = `${holds.connection}/${foldPath(proposal.segments)}`;
    const known = byPath.get(folded);
    if (known) {
      known.keys.push(row.key);
      known.toldApart &&= proposal.toldApart !== null;
    } else byPath.set(folded, { path, keys: [row.key], toldApart: proposal.toldApart !== null });
    if (utf8Bytes(path) > limits.pathBytesMax) {
      tooLong++;
      if (tooLongKeys.length < LISTED) tooLongKeys.push(row.key);
    }
    const own = proposal.segments.at(-1) ?? "";
    const plain = plainName(row, own, limits);
    if (plain !== null) {
      changedCount++;
      if (changed.length < LISTED) changed.push({ key: row.key, name: plain, becomes: own });
    }
    if (sample === "odd")
      oddness.set(
        row.id,
        own.length +
          (plain === null ? 0 : 500) +
          (proposal.unassigned ? 120 : 0) +
          (proposal.segments.includes("undated") ? 150 : 0) +
          (known ? 400 : 0),
      );
    if (row.path !== null && !isInStep(row, path, proposal.toldApart?.join("/") ?? null, holds.connection)) {
      folders++;
      documents += row.papers;
    }
  }
  const clashes = [...byPath.values()].filter((c) => c.keys.length > 1);
  const samples = [];
  for (const row of choose(all, sample, seed, oddness, chosenKeys)) {
    const holds = ruleFor(row, rule);
    const settled = row.aboveId !== null && holds.inside && row.abovePath === null ? await settleFolder(db(), row.aboveId, false) : null;
    const above =
      row.aboveId === null || !holds.inside ? null : (row.abovePath?.split("/") ?? (settled?.ok ? settled.value.segments : null));
    const proposal = decideFolder(row, rule, above, limitsFor(holds.connection));
    const shared = byPath.get(
      `${holds.connection}/${foldPath(decideFolder(row, rule, above === null ? null : (row.abovePath?.split("/") ?? [`#${row.aboveId}`]), limitsFor(holds.connection)).segments)}`,
    );
    samples.push({
      key: row.key,
      title: row.title,
      company: row.company,
      connection: holds.connection,
      segments:
        shared && shared.keys.length > 1 && shared.keys[0] !== row.key && proposal.toldApart ? proposal.toldApart : proposal.segments,
      papers: row.papers,
      unassigned: proposal.unassigned,
      now: row.path,
    });
  }
  samples.sort((a, b) => a.segments.join("/").localeCompare(b.segments.join("/")));
  return ok({
    errors,
    records: all.length,
    samples,
    clashes: clashes.slice(0, LISTED).map((c) => ({ ...c, path: c.path.replace(/^#\d+\//, "… / "), keys: c.keys.slice(0, 6) })),
    clashCount: clashes.length,
    changed,
    changedCount,
    tooLong,
    tooLongKeys,
    moves: { folders, documents },
  });
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

async function loadPlanRecords(scope: SQL, fields: readonly string[]): Promise<readonly PlanRecord[]> {
  const picked = sql.join(
    fields.map((f) => sql`${sql.raw(`'${f}'`)}, record.fields->${sql.raw(`'${f}'`)}`),
    sql`, `,
  );
  const rows = await db().execute<{
    id: number;
    company: string;
    key: string;
    title: string;
    status: string | null;
    date: string | null;
    fields: FieldValues;
    above_id: number | null;
    above_path: string | null;
    path: string | null;
    connection: string | null;
    papers: number;
    used: number;
  }>(sql`with papers as (select folder_id, count(*)::int as n from placement group by folder_id)
    select record.id, record.company, record.key, record.title, record.status, record.date,
      ${fields.length === 0 ? sql`'{}'::jsonb` : sql`jsonb_strip_nulls(jsonb_build_object(${picked}))`} as fields,
      record.above_id, a.path as above_path, f.path, f.connection, coalesce(papers.n, 0) as papers, extract(epoch from record.used_at)::float8 as used
    from record left join own_folder f on f.record_id = record.id
      left join own_folder a on a.record_id = record.above_id left join papers on papers.folder_id = f.folder_id
    where ${scope} order by record.id`);
  return rows.rows.map((r) => ({
    id: r.id,
    company: r.company,
    key: r.key,
    title: r.title,
    status: r.status,
    date: r.date,
    fields: r.fields,
    aboveId: r.above_id,
    abovePath: r.above_path,
    path: r.path,
    connection: r.connection,
    papers: r.papers,
    usedAt: r.used,
  }));
}

/** Whether a record's folder is where a rule would have it, with or without what tells it apart. */
function isInStep(row: PlanRecord, plain: string, apart: string | null, connection: string): boolean {
  if (row.connection !== connection || row.path === null) return false;
  const bare = withoutNumber(row.path);
  return row.path === plain || row.path === apart || bare === plain || bare === apart;
}

/** The name before it was made legal, when that changed more than its form; null when it is as it was. */
function plainName(row: PlanRecord, own: string, limits: NamingLimits): string | null {
  const source = [row.title, ...Object.values(row.fields)].find(
    (v): v is string => typeof v === "string" && v !== own && legalName(v, limits) === own,
  );
  return source !== undefined && foldName(source) !== foldName(own) ? source : null;
}

function choose(
  all: readonly PlanRecord[],
  sample: Sample,
  seed: number,
  oddness: ReadonlyMap<number, number>,
  keys: readonly string[],
): readonly PlanRecord[] {
  const most = (score: (r: PlanRecord) => number): readonly PlanRecord[] => {
    // The best few without sorting all of them.
    const best: { readonly row: PlanRecord; readonly score: number }[] = [];
    for (const row of all) {
      const s = score(row);
      if (best.length === SAMPLES && s <= (best.at(-1)?.score ?? 0)) continue;
      best.push({ row, score: s });
      best.sort((a, b) => b.score - a.score);
      if (best.length > SAMPLES) best.pop();
    }
    return best.map((b) => b.row);
  };
  if (sample === "chosen") return all.filter((r) => keys.includes(r.key)).slice(0, SAMPLES * 2);
  if (sample === "recent") return most((r) => r.usedAt);
  if (sample === "odd") return most((r) => oddness.get(r.id) ?? 0);
  // A small generator with a seed, so that "others" can be asked for and the same ones come again.
  let state = (seed * 2654435761) >>> 0 || 1;
  const next = (): number => (state = (Math.imul(state, 1664525) + 1013904223) >>> 0) / 2 ** 32;
  return Array.from({ length: Math.min(SAMPLES, all.length) }, () => all[Math.floor(next() * all.length)]).filter(
    (r, i, list): r is PlanRecord => r !== undefined && list.indexOf(r) === i,
  );
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
