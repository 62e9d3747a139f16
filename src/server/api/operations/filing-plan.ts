import { z } from "zod";
import { folderRuleSchema } from "#core/filing-plan/folder-rule.ts";
import { planActs } from "../../filing-plan/act-on-plan.ts";
import { define, limit, cursor, short, company, recordParams, planParams } from "./operation.ts";

/** Calls about folder rules and move plans. */
export const filingPlanOperations = define({
  folderRules: { method: "GET", path: "/folder-rules", summary: "Get the filing plan", answers: "{items}" },
  putFolderRule: {
    method: "PUT",
    path: "/folder-rules/{type}",
    summary: "Save a folder rule; it applies to records without a folder",
    params: z.object({ type: z.string().max(40) }),
    body: z.object({ rule: folderRuleSchema, version: z.number().int().min(0).nullable().default(null) }),
    answers: "{version}",
  },
  previewFolderRule: {
    method: "POST",
    path: "/folder-rules/{type}/preview",
    summary: "Preview the folders that real records would get",
    params: z.object({ type: z.string().max(40) }),
    body: z.object({
      rule: folderRuleSchema,
      sample: z.enum(["recent", "random", "odd", "chosen"]).default("recent"),
      keys: z.array(z.string().max(120)).max(16).default([]),
      seed: z.number().int().min(0).default(1),
      company: z.string().max(20).optional(),
    }),
    answers: "{errors, samples, clashes, records}",
  },
  plans: { method: "GET", path: "/move-plans", summary: "List move plans, newest first", answers: "{items}" },
  computeMovePlan: {
    method: "POST",
    path: "/move-plans",
    summary: "Compute a move plan for a changed rule, or for every folder that differs from the plan",
    body: z.union([
      z.object({ recordType: z.string().max(40), rule: folderRuleSchema, version: z.number().int().min(0) }),
      z.object({ outOfStep: z.union([z.literal("all"), z.array(z.string().max(40)).min(1).max(100)]) }),
    ]),
    answers: "{id}",
  },
  plan: { method: "GET", path: "/move-plans/{id}", summary: "Get a move plan and its progress", params: planParams, answers: "the plan" },
  actOnPlan: {
    method: "POST",
    path: "/move-plans/{id}/{act}",
    summary: "Start, stop, resume, undo, retry or discard it",
    params: planParams.extend({ act: z.enum(planActs) }),
    answers: "the plan",
  },
  planSteps: {
    method: "GET",
    path: "/move-plans/{id}/steps",
    summary: "List its moves; CSV with Accept: text/csv",
    params: planParams,
    query: z.object({ q: short, show: z.enum(["trouble", "numbered", "moved", "planned"]).optional(), limit, cursor }),
    answers: "{items, next, total}",
  },
  planFile: {
    method: "GET",
    path: "/folder-rules/file",
    summary: "Export the filing plan as YAML or JSON",
    query: z.object({ form: z.enum(["yaml", "json"]).default("yaml") }),
    answers: "the file",
  },
  planFileSchema: {
    method: "GET",
    path: "/folder-rules/schema.json",
    summary: "Get the JSON Schema of the filing plan file",
    open: true,
    answers: "JSON Schema",
  },
  importPlanFile: {
    method: "POST",
    path: "/folder-rules/file",
    summary: "Compare a filing plan file with the current plan, or save it",
    body: z.object({ text: z.string().max(1_000_000), save: z.boolean().default(false) }),
    answers: "{differences, errors} or {saved}",
  },
  moveRecordFolder: {
    method: "POST",
    path: "/records/{type}/{key}/move-folder",
    summary: "Move its folder to its location in the filing plan",
    params: recordParams,
    query: z.object({ company }),
    answers: "{move}",
  },
});
