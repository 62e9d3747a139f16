import type { SeenFile } from "../ports/repository.ts";
import type { moveStep } from "./tables.ts";

export type Step = Pick<
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
  | "why"
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
