import { z } from "zod";
import { checklistInputSchema } from "#core/checklists/checklist-rules.ts";
import { itemActSchema } from "../../checklists/decide-item.ts";
import { missingViews } from "../../checklists/list-missing.ts";
import { remindSchema, responsibleSchema } from "../../checklists/remind.ts";
import { company, cursor, define, limit, recordParams, recordReference, short } from "./operation.ts";

const typeParams = z.object({ type: z.string().max(40) });

/** Calls about what documents records must have. */
export const checklistsOperations = define({
  missing: {
    method: "GET",
    path: "/checklists/missing",
    summary: "List records with outstanding, received, expiring or expired items, earliest due first",
    query: z.object({
      view: z.enum(missingViews).default("missing"),
      type: short,
      company,
      item: short,
      parent: recordReference,
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
    summary: "Count them by record type, and by item of one type",
    query: z.object({ type: short, company, responsible: z.string().max(64).optional() }),
    answers: "{types, items}",
  },
  decideItem: {
    method: "POST",
    path: "/records/{type}/{key}/checklist",
    summary: "Accept, waive, require, link or add a checklist item of a record",
    params: recordParams,
    query: z.object({ company }),
    body: itemActSchema,
    answers: "{items}",
  },
  remind: {
    method: "POST",
    path: "/checklists/remind",
    summary: "Remind the people responsible for records with outstanding items",
    body: remindSchema,
    answers: "{reminded, people, nobody}",
  },
  reminders: { method: "GET", path: "/checklists/reminders", summary: "List one's own reminders", answers: "{items}" },
  putAwayReminders: {
    method: "POST",
    path: "/checklists/reminders",
    summary: "Dismiss reminders",
    body: z.object({ ids: z.array(z.number().int()).min(1).max(500) }),
    answers: "{done}",
  },
  setResponsible: {
    method: "POST",
    path: "/checklists/responsible",
    summary: "Set who is responsible for records",
    body: responsibleSchema,
    answers: "{done}",
  },
  answering: { method: "GET", path: "/checklists/people", summary: "List people who can be responsible for records", answers: "{items}" },
  checklists: { method: "GET", path: "/checklists/rules", summary: "List the checklists of all record types", answers: "{items}" },
  putChecklist: {
    method: "PUT",
    path: "/checklists/rules/{type}",
    summary: "Save a record type's checklist; a job re-evaluates its records",
    params: typeParams,
    body: checklistInputSchema.extend({ version: z.number().int().min(0) }),
    answers: "{version, job}",
  },
  previewChecklist: {
    method: "POST",
    path: "/checklists/rules/{type}/preview",
    summary: "Preview the effect of a checklist; writes nothing",
    params: typeParams,
    body: checklistInputSchema,
    answers: "{records, items, becomeIncomplete, becomeComplete, examples}",
  },
});
