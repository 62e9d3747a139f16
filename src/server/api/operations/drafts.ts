import { z } from "zod";
import { draftChangeSchema } from "../../drafts/change-draft.ts";
import { draftStates } from "../../drafts/list-drafts.ts";
import { draftInputSchema } from "../../drafts/make-draft.ts";
import { arrivalParams, define, limit, list } from "./operation.ts";

const draftParams = z.object({ id: z.uuid() });

/** Calls about records that are made here from papers, and what the business system tells of them. */
export const draftsOperations = define({
  makeDraft: {
    method: "POST",
    path: "/arrivals/{id}/draft",
    summary: "Make a record from it, clip it to that, and send the record to the business system",
    params: arrivalParams,
    body: draftInputSchema,
    answers: "201 {draft, record, filed}",
  },
  drafts: {
    method: "GET",
    path: "/drafts",
    summary: "Records that were made here, with what the business system said of them",
    query: z.object({ state: list(draftStates), mine: z.enum(["1"]).optional(), limit }),
    answers: "{items, next}",
  },
  draft: { method: "GET", path: "/drafts/{id}", summary: "One of them", params: draftParams, answers: "the draft" },
  sendDraft: {
    method: "POST",
    path: "/drafts/{id}/send",
    summary: "Put it right and send it again",
    params: draftParams,
    body: draftChangeSchema,
    answers: "{state}",
  },
  withdrawDraft: {
    method: "POST",
    path: "/drafts/{id}/withdraw",
    summary: "Take a refused one back: its paper waits in Arrivals again",
    params: draftParams,
    answers: "{arrivalId}",
  },
  businessEvent: {
    method: "POST",
    path: "/business-system/events",
    summary: "The business system tells of a record; signed with x-event-time and x-event-signature (HMAC-SHA256), no key",
    open: true,
    streams: "application/json",
    answers: "{taken}",
  },
});
