import { sql } from "drizzle-orm";
import { queue } from "#server/arrivals/tables.ts";
import { saveChecklist } from "#server/checklists/manage-rules.ts";
import { db } from "#server/db/connect.ts";
import { connection, folderRule } from "#server/filing-plan/tables.ts";
import { loadPerson, type Actor } from "#server/people/load-actor.ts";
import { makeKey, makePerson } from "#server/people/make-person.ts";
import { company, role } from "#server/people/tables.ts";
import { FIRST_CONNECTION, folderRuleSchema } from "#core/filing-plan/folder-rule.ts";
import { reachSettingsSchema } from "#core/reach/reach.ts";
import { saveReachSettings } from "#server/settings/load-settings.ts";
import { saveTemplate } from "#server/sections/manage-templates.ts";
import { sectionTreeSchema } from "#core/sections/section-tree.ts";
import { saveTypes } from "#server/records/load-types.ts";
import { checklists } from "./checklists.ts";
import { documentTypes } from "./document-types.ts";
import { folderRules } from "./folder-rules.ts";
import { companies, demoPassword, people, queues, roles } from "./people.ts";
import { readingOrders, sections } from "./sections.ts";
import { recordTypes } from "./record-types.ts";

/** What bin/demo writes for people and programs that want in. */
export interface Credentials {
  readonly url: string;
  readonly people: readonly {
    readonly name: string;
    readonly email: string;
    readonly password: string;
    readonly roles: readonly string[];
  }[];
  readonly keys: Readonly<Record<"administrator" | "clerk" | "lightUser", string>>;
}

/** Whether the set-up is there already. */
export async function isSetUp(): Promise<boolean> {
  const rows = await db().execute<{ there: boolean }>(sql`select exists (select 1 from "user") as there`);
  return rows.rows[0]?.there === true;
}

/** Companies, types, queues, roles, people, keys, connection and filing plan. */
export async function fillSetUp(url: string): Promise<Credentials> {
  await db()
    .insert(company)
    .values([...companies])
    .onConflictDoNothing();
  await saveTypes({ recordTypes, documentTypes });
  await db()
    .insert(queue)
    .values(queues.map((q, order) => ({ ...q, order })))
    .onConflictDoNothing();
  for (const r of roles)
    await db()
      .insert(role)
      .values({ ...r, grants: [...r.grants] })
      .onConflictDoUpdate({ target: role.key, set: { label: r.label, grants: [...r.grants] } });
  await db().insert(connection).values({ key: FIRST_CONNECTION, label: "Company folders", kind: "disk" }).onConflictDoNothing();
  const keys: Partial<Record<"administrator" | "clerk" | "lightUser", string>> = {};
  const listed = [];
  for (const person of people) {
    const id = await makePerson({
      name: person.name,
      email: person.email,
      password: demoPassword,
      roles: person.roles.map(([r, c]) => ({ role: r, company: c })),
      queues: [...person.queues],
    });
    if (person.key) keys[person.key] = await makeKey(id, `Demo key of ${person.name}`);
    const labels = new Set<string>(person.roles.map(([key]) => roles.find((r) => r.key === key)?.label ?? key));
    listed.push({ name: person.name, email: person.email, password: demoPassword, roles: [...labels] });
  }
  const administrator = await actorByMail(people[0].email);
  for (const [recordType, rule] of Object.entries(folderRules)) {
    await db()
      .insert(folderRule)
      .values({ recordType, version: 1, rule: folderRuleSchema.parse(rule), madeBy: administrator.id })
      .onConflictDoNothing();
  }
  for (const [recordType, items] of Object.entries(checklists)) {
    const saved = await saveChecklist(administrator, recordType, { items }, 0);
    if (!saved.ok) throw new Error(`checklist of ${recordType}: ${JSON.stringify(saved.refusal)}`);
  }
  for (const [recordType, tree] of Object.entries(sections)) {
    const saved = await saveTemplate(administrator, recordType, {
      sections: sectionTreeSchema.parse(tree),
      orders: [...(readingOrders[recordType] ?? [])],
      applies: "all",
      version: 0,
    });
    if (!saved.ok) throw new Error(`sections of ${recordType}: ${JSON.stringify(saved.refusal)}`);
  }
  // Whoever works on a claim wants to see what was agreed with the customer.
  const reach = await saveReachSettings(administrator, reachSettingsSchema.parse({ types: { customerAgreement: ["damageClaim"] } }));
  if (!reach.ok) throw new Error(`reach: ${JSON.stringify(reach.refusal)}`);
  const { administrator: a, clerk, lightUser } = keys;
  if (!a || !clerk || !lightUser) throw new Error("a key is missing");
  return { url, people: listed, keys: { administrator: a, clerk, lightUser } };
}

/** A demo person as the one who asks. */
export async function actorByMail(email: string): Promise<Actor> {
  const rows = await db().execute<{ id: string }>(sql`select id from "user" where email = ${email}`);
  const actor = rows.rows[0] ? await loadPerson(rows.rows[0].id) : null;
  if (!actor) throw new Error(`no demo person ${email}`);
  return actor;
}
