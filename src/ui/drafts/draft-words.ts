import type { DraftAnswer } from "#server/drafts/list-drafts.ts";

/** Why the business system gave no answer. */
export const unansweredWords: Readonly<Record<string, string>> = {
  unreachable: "The business system cannot be reached.",
  "too-slow": "The business system did not answer in time.",
  failed: "The business system sent an invalid answer.",
  "lets-nobody-in": "The business system refuses access: check the key.",
  "not-set": "No business system is connected.",
};

/** A draft's state in a few words. */
export function draftStateText(draft: Pick<DraftAnswer, "state" | "problem" | "record">): string {
  switch (draft.state) {
    case "sending":
      return draft.problem === null ? "being sent to the business system" : "waiting for the business system";
    case "accepted":
      return `entered as ${draft.record.key}`;
    case "refused":
      return "refused by the business system";
    case "withdrawn":
      return "withdrawn";
  }
}
