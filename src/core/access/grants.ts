import { z } from "zod";

/** What a person may do with what a grant covers. */
export const actions = ["see", "add", "file", "edit", "import", "plan", "manage", "register"] as const;
export type Action = (typeof actions)[number];

const all = z.literal("all");

/** One grant of a role: everything it names, in the company that the role is given for. */
export const grantSchema = z.object({
  recordTypes: z.union([all, z.array(z.string())]),
  documentTypes: z.union([all, z.array(z.string())]),
  /** Whether documents marked confidential are covered too. */
  confidential: z.boolean().default(false),
  actions: z.array(z.enum(actions)),
});
export type RoleGrant = z.infer<typeof grantSchema>;

/** A role's grant as a person holds it: for one company. */
export interface Grant extends RoleGrant {
  readonly company: string;
}

/** What access is decided on for a document: nothing else about it matters. */
export interface AccessClass {
  readonly company: string;
  readonly documentType: string;
  readonly confidential: boolean;
  /** Types of the records it is clipped to. */
  readonly recordTypes: readonly string[];
}

const covers = (set: "all" | readonly string[], value: string): boolean => set === "all" || set.includes(value);

/** Whether the grants let a person do something with records of a type in a company. Never fails. */
export function allowsRecord(grants: readonly Grant[], action: Action, company: string, recordType: string): boolean {
  return grants.some((g) => g.company === company && g.actions.includes(action) && covers(g.recordTypes, recordType));
}

/**
 * Whether the grants let a person do something with documents of a class: one grant must cover company,
 * document type, confidentiality and at least one of the records' types. A document clipped to nothing is
 * covered only by a grant for all record types. Rule: docs/rules.md#access
 */
export function allowsDocument(grants: readonly Grant[], action: Action, cls: AccessClass): boolean {
  return grants.some(
    (g) =>
      g.company === cls.company &&
      g.actions.includes(action) &&
      covers(g.documentTypes, cls.documentType) &&
      (g.confidential || !cls.confidential) &&
      (g.recordTypes === "all" || cls.recordTypes.some((type) => g.recordTypes.includes(type))),
  );
}

/** Whether the grants allow an action anywhere at all, optionally in one company: for screens that are about set-up. */
export function allowsAnywhere(grants: readonly Grant[], action: Action, company?: string): boolean {
  return grants.some((g) => g.actions.includes(action) && (company === undefined || g.company === company));
}

/** The companies in which an action is allowed, in the order of the grants, each once. */
export function companiesWith(grants: readonly Grant[], action: Action): readonly string[] {
  return [...new Set(grants.filter((g) => g.actions.includes(action)).map((g) => g.company))];
}

/** The (company, record type) pairs a person may act on, for filters in queries. */
export function recordScopes(
  grants: readonly Grant[],
  action: Action,
  recordTypes: readonly string[],
): readonly { company: string; type: string }[] {
  return companiesWith(grants, action).flatMap((company) =>
    recordTypes.filter((type) => allowsRecord(grants, action, company, type)).map((type) => ({ company, type })),
  );
}
