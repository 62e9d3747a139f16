import { createHash } from "node:crypto";
import { and, eq, gt } from "drizzle-orm";
import { z } from "zod";
import { type Grant, grantSchema } from "#core/access/grants.ts";
import { type PersonId, parsePersonId } from "#core/shared/brand.ts";
import { queueMember } from "../arrivals/tables.ts";
import { db } from "../db/connect.ts";
import { now } from "../ports/clock.ts";
import { keptInMemory } from "../settings/kept.ts";
import { auth } from "./auth.ts";
import { personRole, role, session, user } from "./tables.ts";

/** Whoever asks: a person, by session or by a key. Everything they may see or do follows from it. */
export interface Actor {
  readonly id: PersonId;
  readonly name: string;
  readonly email: string;
  readonly roles: readonly string[];
  readonly grants: readonly Grant[];
  /** Queues the person is a member of. */
  readonly queues: readonly string[];
}

/** How long who asks is remembered, ms. A right or key that is taken away holds so much longer, and no more. */
const REMEMBERED_MS = 2000;
/** People remembered at once; all are forgotten together beyond it. */
const REMEMBERED_MAX = 5000;
const remembered = new Map<string, { readonly until: number; readonly actor: Actor }>();
keptInMemory(() => remembered.clear());

/**
 * Who asks with these headers: a bearer key or a session cookie; null when neither is valid. A page asks many things at once, so the
 * answer is kept for a moment, under a hash of what was shown; nobody is remembered who was refused.
 */
export async function loadActor(headers: Headers): Promise<Actor | null> {
  const shown = createHash("sha256")
    .update(`${headers.get("authorization") ?? ""}\n${headers.get("cookie") ?? ""}`)
    .digest("hex");
  const known = remembered.get(shown);
  if (known && known.until > Date.now()) return known.actor;
  const actor = await checkActor(headers);
  if (remembered.size >= REMEMBERED_MAX) remembered.clear();
  if (actor) remembered.set(shown, { until: Date.now() + REMEMBERED_MS, actor });
  else remembered.delete(shown);
  return actor;
}

async function checkActor(headers: Headers): Promise<Actor | null> {
  const bearer = /^Bearer\s+(\S+)$/i.exec(headers.get("authorization") ?? "")?.[1];
  if (bearer !== undefined) {
    if (bearer.length > 200) return null;
    const verified = await auth().api.verifyApiKey({ body: { key: bearer } });
    return verified.valid && verified.key ? loadPerson(verified.key.referenceId) : null;
  }
  if (!headers.has("cookie")) return null;
  const found = await auth().api.getSession({ headers });
  return found ? loadPerson(found.user.id) : null;
}

/** Loads a person with what they may do; null when there is no such person. */
export async function loadPerson(id: string): Promise<Actor | null> {
  const [people, roles, queues] = await Promise.all([
    db().select({ id: user.id, name: user.name, email: user.email }).from(user).where(eq(user.id, id)),
    db()
      .select({ company: personRole.company, key: role.key, label: role.label, grants: role.grants })
      .from(personRole)
      .innerJoin(role, eq(role.key, personRole.roleKey))
      .where(eq(personRole.personId, id)),
    db().select({ queue: queueMember.queue }).from(queueMember).where(eq(queueMember.personId, id)),
  ]);
  const person = people[0];
  if (!person) return null;
  return {
    id: parsePersonId(person.id),
    name: person.name,
    email: person.email,
    roles: [...new Set(roles.map((r) => r.label))],
    grants: roles.flatMap((r) =>
      z
        .array(grantSchema)
        .parse(r.grants)
        .map((g) => ({ ...g, company: r.company })),
    ),
    queues: queues.map((q) => q.queue),
  };
}

/** Open sessions of a person, newest first; for the list in Set-up. */
export async function listSessions(personId: PersonId): Promise<readonly { id: string; since: Date; agent: string | null }[]> {
  const rows = await db()
    .select()
    .from(session)
    .where(and(eq(session.userId, personId), gt(session.expiresAt, now())));
  return rows.map((s) => ({ id: s.id, since: s.createdAt, agent: s.userAgent })).sort((a, b) => b.since.getTime() - a.since.getTime());
}
