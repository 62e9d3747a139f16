import { z } from "zod";
import { checklistInputSchema } from "#core/checklists/checklist-rules.ts";
import { itemActSchema } from "../../checklists/decide-item.ts";
import { missingViews } from "../../checklists/list-missing.ts";
import { remindSchema, responsibleSchema } from "../../checklists/remind.ts";
import { company, cursor, define, limit, recordParams, recordReference, short } from "./operation.ts";

const typeParams = z.object({ type: z.string().max(40) });

/** Calls about what papers records ought to have. */
export const checklistsOperations = define({
  missing: {
    method: "GET",
    path: "/checklists/missing",
    summary: "Records with something missing, in hand, lapsed or about to lapse; what is due first comes first",
    query: z.object({
      view: z.enum(missingViews).default("missing"),
      type: short,
      company,
      item: short,
      above: recordReference,
      responsible: z.string().max(64).optional(),
      q: short,
      limit,
      cursor,
    }),
    answers: "{items, next}",
  },
  missingCounts: {
    method: "GET",
    path: "/checklists/counts",
    summary: "How many there are, by record type, and of one type by item",
    query: z.object({ type: short, company, responsible: z.string().max(64).optional() }),
    answers: "{types, items}",
  },
  decideItem: {
    method: "POST",
    path: "/records/{type}/{key}/checklist",
    summary: "Accept a paper for an item, waive it, tie a paper to it, add one to this record",
    params: recordParams,
    query: z.object({ company }),
    body: itemActSchema,
    answers: "{items}",
  },
  remind: {
    method: "POST",
    path: "/checklists/remind",
    summary: "Remind whoever answers for these records of what is missing",
    body: remindSchema,
    answers: "{reminded, people, nobody}",
  },
  reminders: { method: "GET", path: "/checklists/reminders", summary: "What one was reminded of", answers: "{items}" },
  putAwayReminders: {
    method: "POST",
    path: "/checklists/reminders",
    summary: "Put reminders away",
    body: z.object({ ids: z.array(z.number().int()).min(1).max(500) }),
    answers: "{done}",
  },
  setResponsible: {
    method: "POST",
    path: "/checklists/responsible",
    summary: "Say who answers for these records",
    body: responsibleSchema,
    answers: "{done}",
  },
  answering: { method: "GET", path: "/checklists/people", summary: "Who can answer for records", answers: "{items}" },
  checklists: { method: "GET", path: "/checklists/rules", summary: "The checklists of all record types", answers: "{items}" },
  putChecklist: {
    method: "PUT",
    path: "/checklists/rules/{type}",
    summary: "Save a record type's checklist; all its records are looked at anew",
    params: typeParams,
    body: checklistInputSchema.extend({ version: z.number().int().min(0) }),
    answers: "{version, job}",
  },
  previewChecklist: {
    method: "POST",
    path: "/checklists/rules/{type}/preview",
    summary: "What saving it would change; nothing is saved",
    params: typeParams,
    body: checklistInputSchema,
    answers: "{records, items, becomeIncomplete, becomeComplete, examples}",
  },
});
