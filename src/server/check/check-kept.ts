import { sql } from "drizzle-orm";
import { countChildDocumentDifferences, refreshAllChildDocuments } from "../clips/refresh-child-documents.ts";
import { checkCompleteness } from "../checklists/check-completeness.ts";
import { db } from "../db/connect.ts";
import { countWrongRecordFolders } from "../filing-plan/record-folders.ts";
import { countWrongReferences } from "../records/enter-references.ts";
import { countWrongTallies } from "../records/record-tallies.ts";
import { indexDocument } from "../search/index-document.ts";
import { checkSeals } from "../timeline/seal-lines.ts";

/** One kept figure beside what a fresh computation gives. */
export interface KeptCheck {
  readonly what: string;
  /** Rows that differ; 0 when kept and computed agree (promise 9). */
  readonly differences: number;
  /** Whether the differences were put right. What was sealed and then altered cannot be. */
  readonly repaired: boolean;
}

/** Compares everything that is maintained with a fresh computation from the base tables, and puts it right when asked to. Safe while people work. */
export async function checkKept(options: { readonly repair: boolean }): Promise<readonly KeptCheck[]> {
  return [
    await recordCounts(options.repair),
    await beneath(options.repair),
    await searchRows(options.repair),
    await seals(),
    await references(options.repair),
    await completeness(options.repair),
    await tallies(options.repair),
    await recordFolders(options.repair),
  ];
}

/** Which folders are a record's. */
async function recordFolders(repair: boolean): Promise<KeptCheck> {
  const differences = await countWrongRecordFolders(repair);
  return { what: "record folders", differences, repaired: repair && differences > 0 };
}

/** How many records there are of each type. */
async function tallies(repair: boolean): Promise<KeptCheck> {
  const differences = await countWrongTallies(repair);
  return { what: "record counts by type", differences, repaired: repair && differences > 0 };
}

/** By what records are recognised on documents, as it follows from their fields. */
async function references(repair: boolean): Promise<KeptCheck> {
  const differences = await countWrongReferences(repair);
  return { what: "record references", differences, repaired: repair && differences > 0 };
}

/** How checklists stand, as it follows from documents, rules and what people said. */
async function completeness(repair: boolean): Promise<KeptCheck> {
  const differences = await checkCompleteness(repair);
  return { what: "record completeness", differences, repaired: repair && differences > 0 };
}

async function recordCounts(repair: boolean): Promise<KeptCheck> {
  const fresh = sql`select r.id, count(c.document_id)::int as n from record r left join clip c on c.record_id = r.id group by r.id`;
  const wrong = await db().execute<{ n: number }>(
    sql`select count(*)::int as n from record r join (${fresh}) f on f.id = r.id where r.document_count <> f.n`,
  );
  const differences = wrong.rows[0]?.n ?? 0;
  if (repair && differences > 0)
    await db().execute(
      sql`update record set document_count = f.n from (${fresh}) f where f.id = record.id and record.document_count <> f.n`,
    );
  return { what: "document counts of records", differences, repaired: repair && differences > 0 };
}

async function beneath(repair: boolean): Promise<KeptCheck> {
  const differences = await countChildDocumentDifferences(db());
  if (repair && differences > 0) await db().transaction(refreshAllChildDocuments);
  return { what: "documents of child records", differences, repaired: repair && differences > 0 };
}

async function searchRows(repair: boolean): Promise<KeptCheck> {
  const wrong = await db().execute<{ id: number }>(sql`select coalesce(d.id, s.document_id) as id
    from (select * from document where unfiled_at is null) d full join search_document s on s.document_id = d.id
    where d.id is null or s.document_id is null or s.acl_id <> d.acl_id or s.document_type <> d.document_type or s.title <> d.title
      or s.document_date is distinct from d.document_date`);
  if (repair) for (const { id } of wrong.rows) await indexDocument(id);
  return { what: "search index", differences: wrong.rows.length, repaired: repair && wrong.rows.length > 0 };
}

async function seals(): Promise<KeptCheck> {
  return { what: "timeline seals", differences: (await checkSeals()).length, repaired: false };
}
