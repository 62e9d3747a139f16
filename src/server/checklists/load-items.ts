import { sql } from "drizzle-orm";
import { allowsRecord } from "#core/access/grants.ts";
import { standingItems, type StandingItem } from "#core/checklists/checklist-state.ts";
import type { DocumentType } from "#core/documents/document-type.ts";
import type { FieldValues } from "#core/records/record-type.ts";
import { documentFilter } from "../access/filters.ts";
import type { Actor } from "../people/load-actor.ts";
import { today } from "../ports/clock.ts";
import { loadDocumentTypes } from "../records/load-types.ts";
import type { record } from "../records/tables.ts";
import { loadFactsOf } from "./load-facts.ts";
import { loadChecklists, seesItem } from "./load-rules.ts";

/** An item of a record's checklist, as a person sees it. */
export interface ChecklistItemAnswer {
  readonly key: string;
  readonly label: string;
  readonly state: StandingItem["state"];
  readonly documentTypes: readonly string[];
  readonly have: number;
  readonly want: number;
  readonly dueOn: string | null;
  readonly expiresOn: string | null;
  /** The words that were chosen for when it is missing. */
  readonly missing: string;
  readonly settledBy: "clip" | "person";
  /** Added by hand on this record. */
  readonly isOwn: boolean;
  /** Documents that count, those only that the person may see. */
  readonly papers: readonly {
    readonly code: string;
    readonly title: string;
    readonly endsOn: string | null;
    readonly isAccepted: boolean;
  }[];
  readonly waived: { readonly reason: string; readonly by: string; readonly at: string } | null;
  readonly mayAccept: boolean;
  /** Whether only documents with certain properties count: one that is dropped on the item is then tied to it by hand. */
  readonly isConditional: boolean;
  /** The property that says how long a document holds; it has to be known for the document to be of use. */
  readonly asks: string | null;
}

/** The items of one record that a person is told of, as they stand today; worked out again each time. */
export async function loadItems(actor: Actor, row: typeof record.$inferSelect): Promise<readonly ChecklistItemAnswer[]> {
  const [rules, types, seen] = await Promise.all([loadChecklists(), loadDocumentTypes(), documentFilter(actor, "see", sql`d.acl_id`)]);
  const known = { ...row, fields: row.fields as FieldValues, chain_id: row.chainId };
  const { facts, titles, waivers } = await loadFactsOf(known, rules, seen);
  const standing = seenItems(actor, row.company, row.type, standingItems(rules.get(row.type) ?? [], facts, today()), types);
  return standing.map((i) => {
    const waiver = i.state === "waived" ? waivers.find((w) => w.item === i.key) : undefined;
    const rule = rules.get(row.type)?.find((r) => r.key === i.key);
    return {
      key: i.key,
      label: i.label,
      state: i.state,
      documentTypes: i.documentTypes,
      have: i.have,
      want: i.want,
      dueOn: i.dueOn,
      expiresOn: i.expiresOn,
      missing: i.missing,
      settledBy: i.settledBy,
      isOwn: i.isOwn,
      papers: i.papers.flatMap((p) => {
        const paper = titles.get(p.id);
        return paper ? [{ code: paper.code, title: paper.title, endsOn: p.endsOn, isAccepted: p.isAccepted }] : [];
      }),
      waived: waiver ? { reason: waiver.reason, by: waiver.by, at: waiver.at } : null,
      mayAccept: mayAccept(actor, row.company, row.type, i),
      isConditional: (rule?.papersThat ?? []).length > 0,
      asks: rule?.validity?.kind === "property" ? rule.validity.property : null,
    };
  });
}

/** Those of a record's items that a person is told of. */
export function seenItems(
  actor: Actor,
  company: string,
  type: string,
  items: readonly StandingItem[],
  types: readonly DocumentType[],
): readonly StandingItem[] {
  return items.filter((i) => seesItem(actor, company, type, i.documentTypes, types));
}

/** Whether a person may accept documents for an item: by the roles its rule names, else by the right to file on such records. */
export function mayAccept(actor: Actor, company: string, type: string, item: Pick<StandingItem, "acceptedBy">): boolean {
  if (!allowsRecord(actor.grants, "file", company, type)) return false;
  return item.acceptedBy.length === 0 || item.acceptedBy.some((role) => actor.roles.includes(role));
}
