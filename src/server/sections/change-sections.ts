import { sql } from "drizzle-orm";
import { z } from "zod";
import { allowsRecord } from "#core/access/grants.ts";
import type { FieldValues } from "#core/records/record-type.ts";
import { decideSection, isInTree } from "#core/sections/place-papers.ts";
import { checkSections, type SectionTree, sectionTreeSchema } from "#core/sections/section-tree.ts";
import { ok, refuse, type Result } from "#core/shared/result.ts";
import { documentFilter } from "../access/filters.ts";
import { db, type Tx } from "../db/connect.ts";
import { idArray, textArray } from "../db/sql-arrays.ts";
import { moveNow } from "../filing-plan/move-now.ts";
import type { Actor } from "../people/load-actor.ts";
import { now } from "../ports/clock.ts";
import { loadDocumentTypes } from "../records/load-types.ts";
import type { record } from "../records/tables.ts";
import { writeLines } from "../timeline/write-lines.ts";
import { loadSections } from "./load-tree.ts";
import { followRenames } from "./manage-templates.ts";

const codes = z.array(z.string().max(20)).min(1).max(500);

/** What a person does about the sections of one record. */
export const sectionActSchema = z.discriminatedUnion("act", [
  /** Moves documents; null takes them out of their section. */
  z.object({ act: z.literal("move"), papers: codes, to: z.string().max(120).nullable() }),
  /** Puts what is not placed where the rules say; dry: only says where. */
  z.object({ act: z.literal("place"), dryRun: z.boolean().default(false) }),
  /** Gives the record its type's sections. */
  z.object({ act: z.literal("apply") }),
  /** Gives it sections of its own. */
  z.object({ act: z.literal("change"), sections: sectionTreeSchema }),
  /** Back to its type's, or to none where those are by choice. */
  z.object({ act: z.literal("reset") }),
]);
export type SectionAct = z.output<typeof sectionActSchema>;

/** Where documents were and are: enough to take it back. */
export interface SectionMove {
  readonly code: string;
  readonly title: string;
  readonly documentType: string;
  readonly from: string | null;
  readonly to: string | null;
}
type RecordRow = typeof record.$inferSelect;

/**
 * Changes the sections of one record, or where its documents stand in them; answers the documents that moved (with `dryRun`: that would). Files follow where the
 * filing plan has a folder for each section. Refuses not-allowed, not-found (a document that is not there for this person), bad-input.
 */
export async function changeSections(
  actor: Actor,
  row: RecordRow,
  act: SectionAct,
): Promise<Result<{ readonly moved: readonly SectionMove[] }>> {
  const needs = act.act === "move" || act.act === "place" ? "file" : "edit";
  if (!allowsRecord(actor.grants, needs, row.company, row.type)) return refuse("not-allowed");
  const changed = await db().transaction((tx) => changeIn(tx, actor, row, act));
  if (!changed.ok) return changed;
  const { moved, ids } = changed.value;
  // Where sections have folders the files go along; where not, this finds nothing to do.
  if (ids.length > 0) {
    const carried = await moveNow(actor, "document", row.key, { documentIds: ids });
    if (!carried.ok) return carried;
  }
  return ok({ moved });
}

async function changeIn(
  tx: Tx,
  actor: Actor,
  row: RecordRow,
  act: SectionAct,
): Promise<Result<{ readonly moved: readonly SectionMove[]; readonly ids: readonly number[] }>> {
  const sections = await loadSections(tx, row);
  const keep = async (tree: SectionTree | null, what: string): Promise<void> => {
    await tx.execute(sql`insert into record_sections (record_id, tree, changed_at, changed_by)
      values (${row.id}, ${tree === null ? null : JSON.stringify(tree)}::jsonb, ${now()}, ${actor.id})
      on conflict (record_id) do update set tree = excluded.tree, changed_at = excluded.changed_at, changed_by = excluded.changed_by`);
    await writeLines(tx, [{ verb: "sectionsChanged", who: actor.id, company: row.company, recordId: row.id, details: { what } }]);
  };
  const nothing = { moved: [], ids: [] };
  switch (act.act) {
    case "apply":
      if (!sections.hasTemplate) return refuse("not-found");
      await keep(null, "the record type's sections");
      return ok(nothing);
    case "reset":
      await tx.execute(sql`delete from record_sections where record_id = ${row.id}`);
      await writeLines(tx, [
        {
          verb: "sectionsChanged",
          who: actor.id,
          company: row.company,
          recordId: row.id,
          details: { what: "back to the record type's sections" },
        },
      ]);
      return ok(nothing);
    case "change": {
      const errors = checkSections(
        act.sections,
        (await loadDocumentTypes(tx)).map((t) => t.key),
      );
      if (errors.length > 0) return refuse("bad-input", undefined, errors);
      await keep(act.sections, "its own");
      await followRenames(tx, sections.tree, act.sections, sql`c.record_id = ${row.id}`);
      return ok(nothing);
    }
    case "move": {
      if (act.to !== null && !isInTree(sections.tree, act.to))
        return refuse("bad-input", undefined, [{ path: "to", message: `there is no section "${act.to}"` }]);
      const papers = await loadPapers(tx, actor, row, act.papers);
      if (papers.length < new Set(act.papers).size) return refuse("not-found");
      return place(
        tx,
        actor,
        row,
        papers.map((p) => ({ ...p, to: act.to })),
      );
    }
    case "place": {
      const papers = await loadPapers(tx, actor, row, null);
      const loose = papers
        .filter((p) => p.section === null || !isInTree(sections.tree, p.section))
        .flatMap((p) => {
          const to = decideSection(sections.tree, p);
          return to === null ? [] : [{ ...p, to }];
        });
      if (act.dryRun) return ok({ moved: loose.map(moveOf), ids: [] });
      return place(tx, actor, row, loose);
    }
  }
}

interface LoosePaper {
  readonly id: number;
  readonly code: string;
  readonly title: string;
  readonly documentType: string;
  readonly documentDate: string | null;
  readonly properties: FieldValues;
  readonly section: string | null;
}

/** Documents clipped to the record that the person may file: those named, or all. Their clips are held until the end of the transaction. */
async function loadPapers(tx: Tx, actor: Actor, row: RecordRow, named: readonly string[] | null): Promise<readonly LoosePaper[]> {
  const may = await documentFilter(actor, "file", sql`d.acl_id`);
  const rows = await tx.execute<{
    id: number;
    code: string;
    title: string;
    document_type: string;
    document_date: string | null;
    properties: FieldValues;
    section: string | null;
  }>(sql`select d.id, d.code, d.title, d.document_type, d.document_date, d.properties, c.section from clip c join document d on d.id = c.document_id
    where c.record_id = ${row.id} and ${may} and ${named === null ? sql`true` : sql`d.code = any(${textArray(named)}::text[])`} order by d.id for update of c`);
  return rows.rows.map((r) => ({ ...r, documentType: r.document_type, documentDate: r.document_date }));
}

const moveOf = (p: LoosePaper & { readonly to: string | null }): SectionMove => ({
  code: p.code,
  title: p.title,
  documentType: p.documentType,
  from: p.section,
  to: p.to,
});

async function place(
  tx: Tx,
  actor: Actor,
  row: RecordRow,
  papers: readonly (LoosePaper & { readonly to: string | null })[],
): Promise<Result<{ readonly moved: readonly SectionMove[]; readonly ids: readonly number[] }>> {
  const moving = papers.filter((p) => p.section !== p.to);
  for (const to of new Set(moving.map((p) => p.to))) {
    const those = moving.filter((p) => p.to === to);
    await tx.execute(
      sql`update clip set section = ${to} where record_id = ${row.id} and document_id = any(${idArray(those.map((p) => p.id))}::bigint[])`,
    );
    await writeLines(tx, [
      {
        verb: "sectioned",
        who: actor.id,
        company: row.company,
        recordId: row.id,
        details: { papers: those.length === 1 ? (those[0]?.title ?? "") : `${those.length} documents`, section: to ?? "no section" },
      },
    ]);
  }
  // Only where this is the record that decides the place does the file have anything to do with it.
  const main = await tx.execute<{ id: number }>(
    sql`select document_id as id from clip where record_id = ${row.id} and position = 0 and document_id = any(${idArray(moving.map((p) => p.id))}::bigint[])`,
  );
  return ok({ moved: moving.map(moveOf), ids: main.rows.map((r) => r.id) });
}
