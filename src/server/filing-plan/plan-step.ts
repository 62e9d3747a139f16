import { type SQL, sql } from "drizzle-orm";
import type { SeenFile } from "../ports/repository.ts";
import type { moveStep } from "./tables.ts";

export type Step = StepColumns & {
  /** It is undone: from where it was moved to, back to where it was. */
  readonly isBack: boolean;
};
type StepColumns = Pick<
  typeof moveStep.$inferSelect,
  | "position"
  | "wave"
  | "kind"
  | "isAside"
  | "recordId"
  | "documentId"
  | "folderId"
  | "fromConnection"
  | "fromPath"
  | "toConnection"
  | "toPath"
>;

export type Outcome = {
  readonly step: Step;
  readonly kind: "moved" | "failed" | "clash";
  readonly why: string | null;
  readonly seen?: SeenFile | null;
};

/** Where a test stops a plan as if the process had been killed: called after each thing that is written. Not set outside tests. */
export const stops: { after: ((what: string) => void) | null } = { after: null };

export const written = (what: string): void => stops.after?.(what);

export const parentOf = (path: string): string => path.slice(0, Math.max(0, path.lastIndexOf("/")));

export const nameOf = (path: string): string => path.slice(path.lastIndexOf("/") + 1);

export const lowest = (steps: readonly Pick<Step, "position">[]): number =>
  steps.reduce((least, s) => Math.min(least, s.position), Infinity);

export const highestPosition = (steps: readonly Pick<Step, "position">[]): number =>
  steps.reduce((most, s) => Math.max(most, s.position), -Infinity);

/** The positions of steps as ranges, for SQL: steps are taken in their order, so that these are few. */
export function positionsOf(steps: readonly Pick<Step, "position">[]): string {
  const ranges: { readonly first: number; next: number }[] = [];
  for (const position of steps.map((s) => s.position).sort((a, b) => a - b)) {
    const last = ranges.at(-1);
    if (last?.next === position) last.next++;
    else ranges.push({ first: position, next: position + 1 });
  }
  return `{${ranges.map((r) => `[${r.first},${r.next})`).join(",")}}`;
}

/** Whether a step of a plan, by its alias, was carried out, as last written down; SQL. */
export const isMoved = (planId: string, s: SQL): SQL =>
  sql`(${s}.state = 'planned' and (select moved from move_plan where id = ${planId}) @> ${s}.position)`;

/** Whether it waits to be carried out; SQL. */
export const isPlanned = (planId: string, s: SQL): SQL =>
  sql`(${s}.state = 'planned' and not (select moved from move_plan where id = ${planId}) @> ${s}.position)`;

/** Whether it was taken and is not written down yet; SQL. */
export const isStepUnderWay = (
  planId: string,
  s: SQL,
): SQL => sql`exists (select 1 from steps_under_way u where u.plan_id = ${s}.plan_id and u.wave = ${s}.wave
  and ${s}.position between u.first and u.last and ${isAsTaken(planId, s, sql`u`)})`;

/** Whether any plan is being carried out, and not waiting for anything; SQL. What is not needed at once gives way to it for a while. */
export const isPlanCarried = sql`exists (select from move_plan where state in ('running', 'undoing') and why is null)`;

/** Whether a step is still as it was when it was taken, by the alias of what is under way; SQL. */
export const isAsTaken = (planId: string, s: SQL, u: SQL): SQL =>
  sql`${s}.state = 'planned' and (select moved from move_plan where id = ${planId}) @> ${s}.position = ${u}.is_back`;
