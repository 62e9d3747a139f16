import { z } from "zod";
import { draftChangeSchema } from "../../drafts/change-draft.ts";
import { draftStates } from "../../drafts/list-drafts.ts";
import { draftInputSchema } from "../../drafts/make-draft.ts";
import { arrivalParams, define, limit, list } from "./operation.ts";

const draftParams = z.object({ id: z.uuid() });

/** Calls about records that are made here from documents, and what the business system tells of them. */
export const draftsOperations = define({
  makeDraft: {
    method: "POST",
    path: "/arrivals/{id}/draft",
    summary: "Create a record from it, clip it and send the record to the business system",
    params: arrivalParams,
    body: draftInputSchema,
    answers: "201 {draft, record, filed}",
  },
  drafts: {
    method: "GET",
    path: "/drafts",
    summary: "List records created here and the business system's answers",
    query: z.object({ state: list(draftStates), mine: z.enum(["1"]).optional(), limit }),
    answers: "{items, next}",
  },
  draft: { method: "GET", path: "/drafts/{id}", summary: "Get one of them", params: draftParams, answers: "the draft" },
  sendDraft: {
    method: "POST",
    path: "/drafts/{id}/send",
    summary: "Correct it and send it again",
    params: draftParams,
    body: draftChangeSchema,
    answers: "{state}",
  },
  withdrawDraft: {
    method: "POST",
    path: "/drafts/{id}/withdraw",
    summary: "Withdraw a refused one; its document goes back to Arrivals",
    params: draftParams,
    answers: "{arrivalId}",
  },
  businessEvent: {
    method: "POST",
    path: "/business-system/events",
    summary: "Receive a record event of the business system; signed with x-event-time and x-event-signature (HMAC-SHA256), no key",
    open: true,
    streams: "application/json",
    answers: "{taken}",
  },
});
