import { sql, type SQL } from "drizzle-orm";
import { assignPlaces, type PlaceWish } from "#core/filing-plan/assign-places.ts";
import { decideFileName, decideSubFolder, filePatternOf } from "#core/filing-plan/decide-file-name.ts";
import type { FolderRule } from "#core/filing-plan/folder-rule.ts";
import { endingOf, foldName, numberedName, utf8Bytes } from "#core/filing-plan/legal-name.ts";
import { orderMoves } from "#core/filing-plan/order-moves.ts";
import type { FieldValues } from "#core/records/record-type.ts";
import { documentCodeOf } from "#core/shared/brand.ts";
import { db } from "../db/connect.ts";
import { textArray } from "../db/sql-arrays.ts";
import { betweenOf, type NewStep, placeAt, type Spot } from "./new-step.ts";
import type { limitsByKey } from "./preview-rule.ts";

interface Drawn {
  readonly rules: ReadonlyMap<string, FolderRule>;
  readonly limitsFor: ReturnType<typeof limitsByKey>;
  readonly wanted: ReadonlyMap<number, Spot>;
  readonly carriedTo: (connection: string, path: string) => string;
  readonly holders: ReadonlyMap<string, number | null>;
  readonly fold: (path: string) => string;
  readonly types: ReadonlyMap<string, { readonly label: string; readonly plural: string }>;
  readonly wave: number;
}

/** A file with the place that the rules would give it. */
interface WishedFile<R> {
  readonly row: R;
  readonly from: Spot;
  readonly connection: string;
  readonly folder: string;
  readonly name: string;
  readonly ending: string;
}

/** Steps of single files: those whose name, sub-folder or record's folder is another than the one they stand in. */
export async function fileSteps(planId: string, scope: SQL, drawn: Drawn): Promise<readonly NewStep[]> {
  const rows = await db().execute<{
    id: number;
    document_type: string;
    title: string;
    properties: FieldValues;
    filed_on: string;
    current_version: number;
    section: string | null;
    name: string;
    folder_id: number;
    connection: string;
    folder_path: string;
    record_id: number;
    type: string;
    company: string;
    key: string;
    record_title: string;
    status: string | null;
    date: string | null;
    fields: FieldValues;
    own_connection: string | null;
    own_path: string | null;
  }>(sql`select d.id, d.document_type, d.title, d.properties, to_char(d.filed_at, 'YYYY-MM-DD') as filed_on, d.current_version, c.section,
      p.name, p.folder_id, f.connection, f.path as folder_path, r.id as record_id, r.type, r.company, r.key, r.title as record_title, r.status, r.date, r.fields,
      own.connection as own_connection, own.path as own_path
    from clip c join document d on d.id = c.document_id join placement p on p.document_id = d.id join folder f on f.id = p.folder_id
      join record r on r.id = c.record_id left join own_folder own on own.record_id = r.id
    where c.position = 0 and ${scope} order by d.id`);
  const wishes: PlaceWish[] = [];
  const byId = new Map<number, WishedFile<(typeof rows.rows)[number]>>();
  for (const row of rows.rows) {
    const rule = drawn.rules.get(row.type);
    const own =
      drawn.wanted.get(row.record_id) ??
      (row.own_path === null || row.own_connection === null
        ? null
        : { connection: row.own_connection, path: drawn.carriedTo(row.own_connection, row.own_path) });
    if (!rule || !own) continue;
    const limits = drawn.limitsFor(own.connection);
    const type = drawn.types.get(row.document_type);
    const document = {
      documentType: type?.label ?? row.document_type,
      title: row.title,
      code: documentCodeOf(row.id),
      filedOn: row.filed_on,
      version: row.current_version,
      properties: row.properties,
    };
    const record = { company: row.company, key: row.key, title: row.record_title, status: row.status, date: row.date, fields: row.fields };
    const ending = endingOf(row.name);
    const name = decideFileName(filePatternOf(rule, row.document_type), document, record, ending, limits);
    const within = decideSubFolder(rule, { section: row.section, typePlural: type?.plural ?? row.document_type }, limits);
    const folder = [own.path, ...within].filter((s) => s !== "").join("/");
    const folderFolded = `${own.connection}/${drawn.fold(folder)}`;
    const from = { connection: row.connection, path: `${drawn.carriedTo(row.connection, row.folder_path)}/${row.name}` };
    byId.set(row.id, { row, from, connection: own.connection, folder, name, ending });
    wishes.push({
      id: row.id,
      current: `${from.connection}/${drawn.fold(from.path)}`,
      wanted: [{ path: `${folder}/${name}`, folded: `${folderFolded}/${foldName(name)}` }],
    });
  }
  const others = await namesOfOthers(wishes, byId);
  const places = assignPlaces(
    wishes,
    (folded) => drawn.holders.has(folded) || others.has(folded),
    (id, n) => {
      const wish = byId.get(id);
      if (!wish) throw new Error("nobody wished for that");
      const { connection, folder, name, ending } = wish;
      return placeAt(connection, `${folder}/${numberedName(name, ending, n, drawn.limitsFor(connection))}`, drawn.fold);
    },
  );
  const movers: { readonly id: number; readonly from: string; readonly to: string }[] = [];
  const steps: NewStep[] = [];
  const about = (id: number, from: Spot, to: Spot, by: string): Omit<NewStep, "wave"> => {
    const row = byId.get(id)?.row;
    return {
      kind: "file",
      recordId: row?.record_id ?? null,
      documentId: id,
      folderId: row?.folder_id ?? null,
      fromConnection: from.connection,
      fromPath: from.path,
      toConnection: to.connection,
      toPath: to.path,
      shownFrom: `${row?.folder_path}/${row?.name}`,
      documents: 1,
      foundBy: by,
    };
  };
  for (const [id, place] of places) {
    const found = byId.get(id);
    if (!found || (found.from.connection === found.connection && found.from.path === place.path)) continue;
    if (utf8Bytes(place.path) > drawn.limitsFor(found.connection).pathBytesMax)
      steps.push({
        ...about(id, found.from, { connection: found.connection, path: place.path }, place.by),
        wave: drawn.wave,
        state: "clash",
        why: "path-too-long",
      });
    else movers.push({ id, from: `${found.from.connection}/${drawn.fold(found.from.path)}`, to: place.folded });
  }
  for (const step of orderMoves(movers)) {
    const found = byId.get(step.id);
    const place = places.get(step.id);
    if (!found || !place) continue;
    const [from, to] = betweenOf(step, found.from, { connection: found.connection, path: place.path }, planId);
    steps.push({
      ...about(step.id, from, to, place.by),
      wave: drawn.wave + step.wave,
      isAside: step.kind === "aside",
      ...(step.kind === "aside" ? { documents: 0 } : {}),
    });
  }
  return steps;
}

/** Names in the folders that files go to which belong to documents that are not looked at here. */
async function namesOfOthers(wishes: readonly PlaceWish[], known: ReadonlyMap<number, unknown>): Promise<ReadonlySet<string>> {
  const folders = [...new Set(wishes.flatMap((w) => w.wanted.map((p) => p.folded.slice(0, p.folded.lastIndexOf("/")))))];
  const rows = await db().execute<{
    at: string;
    id: number;
  }>(sql`select f.connection || '/' || f.path_folded || '/' || x.name_folded as at, x.document_id as id
    from folder f join (select folder_id, document_id, name_folded from placement union all select folder_id, document_id, name_folded from pointer) x on x.folder_id = f.id
    where (f.connection, f.path_folded) in (select split_part(u, '/', 1), substr(u, strpos(u, '/') + 1) from unnest(${textArray(folders)}::text[]) u)`);
  return new Set(rows.rows.filter((r) => !known.has(r.id)).map((r) => r.at));
}
