import { randomUUID } from "node:crypto";
import { eq } from "drizzle-orm";
import { type PersonId, parsePersonId } from "#core/shared/brand.ts";
import { queueMember } from "../arrivals/tables.ts";
import { db } from "../db/connect.ts";
import { auth } from "./auth.ts";
import { account, personRole, user } from "./tables.ts";

/** A person to be made: roles by company, and the queues they work on. */
export interface NewPerson {
  readonly name: string;
  readonly email: string;
  readonly password: string;
  readonly roles: readonly { readonly role: string; readonly company: string }[];
  readonly queues: readonly string[];
}

/** Makes a person, or brings an existing one (by mail address) up to date; the password of an existing one stays. */
export async function makePerson(person: NewPerson): Promise<PersonId> {
  const context = await auth().$context;
  const known = await db().select({ id: user.id }).from(user).where(eq(user.email, person.email.toLowerCase()));
  let id = known[0]?.id;
  if (id === undefined) {
    id = randomUUID();
    const email = person.email.toLowerCase();
    const password = await context.password.hash(person.password);
    const newId = id;
    await db().transaction(async (tx) => {
      await tx.insert(user).values({ id: newId, name: person.name, email, emailVerified: true });
      await tx.insert(account).values({ id: randomUUID(), userId: newId, providerId: "credential", accountId: newId, password });
    });
  }
  const personId = parsePersonId(id);
  await db().transaction(async (tx) => {
    await tx.delete(personRole).where(eq(personRole.personId, personId));
    if (person.roles.length > 0)
      await tx.insert(personRole).values(person.roles.map((r) => ({ personId, roleKey: r.role, company: r.company })));
    await tx.delete(queueMember).where(eq(queueMember.personId, personId));
    if (person.queues.length > 0) await tx.insert(queueMember).values(person.queues.map((queue) => ({ queue, personId })));
  });
  return personId;
}

/** Makes a key that acts as a person. The key itself is answered this once; only its hash is kept. */
export async function makeKey(personId: PersonId, name: string): Promise<string> {
  const made = await auth().api.createApiKey({ body: { userId: personId, name } });
  return made.key;
}
