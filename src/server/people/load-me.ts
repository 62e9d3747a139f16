import { asc, inArray, sql } from "drizzle-orm";
import { allowsAnywhere, companiesWith } from "#core/access/grants.ts";
import { type IntakeLimits, narrowLimits } from "#core/arrivals/limits.ts";
import type { DocumentType } from "#core/documents/document-type.ts";
import type { RecordType } from "#core/records/record-type.ts";
import { queue } from "../arrivals/tables.ts";
import { db } from "../db/connect.ts";
import { loadDocumentTypes, loadRecordTypes } from "../records/load-types.ts";
import { loadLimits, parseQueueLimits, loadPreferences, type Preferences } from "../settings/load-settings.ts";
import type { Actor } from "./load-actor.ts";
import { company } from "./tables.ts";

/** What a person's screens are built from. Only types and companies that their grants speak of. */
export interface Me {
  readonly id: string;
  readonly name: string;
  readonly email: string;
  readonly roles: readonly string[];
  readonly may: {
    readonly file: boolean;
    readonly add: boolean;
    readonly plan: boolean;
    readonly manage: boolean;
    readonly register: boolean;
    readonly import: boolean;
  };
  readonly companies: readonly { readonly code: string; readonly name: string }[];
  readonly queues: readonly {
    readonly key: string;
    readonly label: string;
    readonly member: boolean;
    /** What is taken in there. */ readonly limits: IntakeLimits;
  }[];
  readonly recordTypes: readonly RecordType[];
  readonly documentTypes: readonly DocumentType[];
  readonly limits: IntakeLimits;
  readonly preferences: Preferences;
}

/** Loads what a person's screens are built from. */
export async function loadMe(actor: Actor): Promise<Me> {
  const codes = companiesWith(actor.grants, "see");
  const [companies, queues, recordTypes, documentTypes, limits, preferences] = await Promise.all([
    codes.length === 0
      ? []
      : db()
          .select()
          .from(company)
          .where(inArray(company.code, [...codes]))
          .orderBy(asc(company.code)),
    db().select().from(queue).orderBy(asc(queue.order)),
    loadRecordTypes(),
    loadDocumentTypes(),
    loadLimits(),
    loadPreferences(actor.id),
  ]);
  const seesRecordType = (key: string): boolean =>
    actor.grants.some((g) => g.actions.includes("see") && (g.recordTypes === "all" || g.recordTypes.includes(key)));
  const seesDocumentType = (key: string): boolean =>
    actor.grants.some((g) => g.actions.includes("see") && (g.documentTypes === "all" || g.documentTypes.includes(key)));
  return {
    id: actor.id,
    name: actor.name,
    email: actor.email,
    roles: actor.roles,
    may: {
      file: allowsAnywhere(actor.grants, "file"),
      add: allowsAnywhere(actor.grants, "add"),
      plan: allowsAnywhere(actor.grants, "plan"),
      manage: allowsAnywhere(actor.grants, "manage"),
      register: allowsAnywhere(actor.grants, "register"),
      import: allowsAnywhere(actor.grants, "import"),
    },
    companies,
    queues: queues.map((q) => ({
      key: q.key,
      label: q.label,
      member: actor.queues.includes(q.key),
      limits: narrowLimits(limits, parseQueueLimits(q.limits)),
    })),
    recordTypes: recordTypes.filter((t) => seesRecordType(t.key)),
    documentTypes: documentTypes.filter((t) => seesDocumentType(t.key)),
    limits,
    preferences,
  };
}

/** People with their roles and queues, for Set-up. */
export async function listPeople(): Promise<
  readonly {
    readonly id: string;
    readonly name: string;
    readonly email: string;
    readonly roles: readonly string[];
    readonly queues: readonly string[];
    readonly keys: number;
    readonly lastSeenAt: string | null;
  }[]
> {
  const rows = await db().execute<{
    id: string;
    name: string;
    email: string;
    roles: string[] | null;
    queues: string[] | null;
    keys: number;
    last_seen: Date | null;
  }>(sql`select u.id, u.name, u.email,
      (select json_agg(r.label || ' · ' || pr.company order by pr.company) from person_role pr join role r on r.key = pr.role_key where pr.person_id = u.id) as roles,
      (select json_agg(q.label order by q.order) from queue_member m join queue q on q.key = m.queue where m.person_id = u.id) as queues,
      (select count(*) from apikey k where k.reference_id = u.id and k.enabled) as keys,
      (select max(s.updated_at) from session s where s.user_id = u.id) as last_seen
    from "user" u order by u.name`);
  return rows.rows.map((r) => ({
    id: r.id,
    name: r.name,
    email: r.email,
    roles: r.roles ?? [],
    queues: r.queues ?? [],
    keys: Number(r.keys),
    lastSeenAt: r.last_seen === null ? null : new Date(r.last_seen).toISOString(),
  }));
}
