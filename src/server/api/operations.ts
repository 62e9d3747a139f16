import { z } from "zod";
import { arrivalStates } from "#core/arrivals/journey.ts";
import { limitsSchema } from "#core/arrivals/limits.ts";
import { folderRuleSchema } from "#core/filing-plan/folder-rule.ts";
import { isCalendarDay } from "#core/records/parse-field-values.ts";
import { arrivalSorts } from "../arrivals/list-arrivals.ts";
import { changeSchema } from "../documents/change-document.ts";
import { filingSchema } from "../documents/file-away.ts";
import { planActs } from "../filing-plan/run-plan.ts";
import { recordSorts } from "../records/list-records.ts";
import { scopes } from "../records/load-record-page.ts";
import { recordInputSchema } from "../records/upsert-record.ts";
import { locationSorts } from "../repository/browse.ts";
import { allDecisions } from "../repository/decide-findings.ts";
import { connectionInputSchema, setUpSchema } from "../repository/manage-connections.ts";
import { preferencesSchema, repositorySettingsSchema } from "../settings/load-settings.ts";

/** One call of the HTTP API: the doors check with these schemas, and openapi.json is made from them. */
export interface Operation {
  readonly method: "GET" | "PUT" | "POST" | "PATCH";
  readonly path: string;
  readonly summary: string;
  readonly params?: z.ZodObject;
  readonly query?: z.ZodObject;
  readonly body?: z.ZodType;
  /** Media type of a body that is streamed and not checked here. */
  readonly streams?: "multipart/form-data" | "text/csv";
  readonly open?: true;
  readonly answers: string;
}

const limit = z.coerce.number().int().min(1).max(200).default(50);
const cursor = z
  .string()
  .regex(/^\d{1,12}$/, "is not a cursor")
  .optional();
const day = z.string().refine(isCalendarDay, "must be a date like 2026-11-18").optional();
const short = z.string().trim().max(120).optional();
/** A record as `type:key`. */
const recordReference = z
  .string()
  .max(200)
  .regex(/^[^:]+:.+$/, "must be type:key")
  .optional();
const company = z.string().max(20).optional();
const arrivalParams = z.object({ id: z.uuid() });
const documentParams = z.object({ code: z.string().max(20) });
const recordParams = z.object({ type: z.string().max(40), key: z.string().max(120) });
const planParams = z.object({ id: z.uuid() });
const connectionParams = z.object({ key: z.string().max(40) });
const page = z.string().max(20);
const arrivalPageParams = arrivalParams.extend({ page });
const documentPageParams = documentParams.extend({ page });
const list = <T extends readonly [string, ...string[]]>(values: T) =>
  z
    .string()
    .transform((t) => t.split(","))
    .pipe(z.array(z.enum(values)))
    .optional();
const reason = z.object({ reason: z.string().trim().max(300).default("") });
const pictureQuery = z.object({ width: z.coerce.number().int().min(32).max(2400).default(960) });
const contentQuery = z.object({ version: z.coerce.number().int().min(1).optional(), download: z.enum(["1"]).optional() });
const arrivalQuery = z.object({
  state: list(arrivalStates),
  queue: short,
  company,
  source: short,
  kind: short,
  problem: z.enum(["1"]).optional(),
  record: z
    .string()
    .max(200)
    .regex(/^[^:]+:.+$/, "must be type:key")
    .optional(),
  q: short,
  from: day,
  to: day,
  sort: z.enum(arrivalSorts).optional(),
  limit,
  cursor,
});

const define = <T extends Readonly<Record<string, Operation>>>(operations: T): T => operations;

export const operations = define({
  health: { method: "GET", path: "/health", summary: "Whether it can take work", open: true, answers: "{status, version, checks}" },
  openapi: { method: "GET", path: "/openapi.json", summary: "This description", open: true, answers: "OpenAPI 3.1" },
  me: {
    method: "GET",
    path: "/me",
    summary: "Who asks, and the types, companies, queues and limits they work with",
    answers: "the person",
  },
  lookup: {
    method: "GET",
    path: "/records/lookup",
    summary: "Look-up while typing",
    query: z.object({
      q: z.string().max(200).default(""),
      type: short,
      company,
      above: z
        .string()
        .regex(/^[^:]+:.+$/, "must be type:key")
        .optional(),
      limit: z.coerce.number().int().min(1).max(50).default(12),
    }),
    answers: "{items}",
  },
  recordCounts: {
    method: "GET",
    path: "/records/counts",
    summary: "Records and papers by type",
    query: z.object({ company }),
    answers: "{items}",
  },
  records: {
    method: "GET",
    path: "/records",
    summary: "Records of a type",
    query: z.object({
      type: z.string().max(40),
      company,
      q: short,
      above: recordReference,
      status: short,
      sort: z.enum(recordSorts).optional(),
      order: z.enum(["up", "down"]).optional(),
      limit,
      cursor,
    }),
    answers: "{items, next, total}",
  },
  putRecord: {
    method: "PUT",
    path: "/records/{type}/{key}",
    summary: "Insert or update a record",
    params: recordParams,
    query: z.object({ company: z.string().max(20) }),
    body: recordInputSchema,
    answers: "the record",
  },
  record: {
    method: "GET",
    path: "/records/{type}/{key}",
    summary: "A record, its counts and its checklist",
    params: recordParams,
    query: z.object({ company }),
    answers: "the record",
  },
  recordDocuments: {
    method: "GET",
    path: "/records/{type}/{key}/documents",
    summary: "Its documents: its own, along its chain, or beneath it",
    params: recordParams,
    query: z.object({ company, scope: z.enum(scopes).default("own"), limit, cursor }),
    answers: "{items, next}",
  },
  recordTimeline: {
    method: "GET",
    path: "/records/{type}/{key}/timeline",
    summary: "What happened to it",
    params: recordParams,
    query: z.object({ company }),
    answers: "{items}",
  },
  importRecords: {
    method: "POST",
    path: "/records/import",
    summary: "Insert or update records from CSV",
    query: z.object({ type: z.string().max(40), company: z.string().max(20) }),
    streams: "text/csv",
    answers: "{job}",
  },
  postArrival: {
    method: "POST",
    path: "/arrivals",
    summary: "Take a paper in",
    streams: "multipart/form-data",
    answers: "201 {id, sha256, bytes, state}",
  },
  arrivals: {
    method: "GET",
    path: "/arrivals",
    summary: "Arrivals; those that wait unless states are named",
    query: arrivalQuery,
    answers: "{items, next, total}",
  },
  arrivalCounts: { method: "GET", path: "/arrivals/counts", summary: "Waiting arrivals by queue", answers: "{items}" },
  bulkArrivals: {
    method: "POST",
    path: "/arrivals/bulk",
    summary: "Set aside, restore or read again many",
    body: z.object({
      ids: z.array(z.uuid()).min(1).max(500),
      action: z.enum(["setAside", "restore", "readAgain"]),
      reason: z.string().trim().max(300).default(""),
    }),
    answers: "{done, failures}",
  },
  arrival: { method: "GET", path: "/arrivals/{id}", summary: "An arrival", params: arrivalParams, answers: "the arrival" },
  renameArrival: {
    method: "PATCH",
    path: "/arrivals/{id}",
    summary: "Give an arrival another name",
    params: arrivalParams,
    body: z.object({ fileName: z.string().trim().min(1).max(240) }),
    answers: "{fileName}",
  },
  arrivalView: {
    method: "GET",
    path: "/arrivals/{id}/view",
    summary: "What a viewer shows it from",
    params: arrivalParams,
    answers: "{kind, pages, outline, text}",
  },
  arrivalContent: {
    method: "GET",
    path: "/arrivals/{id}/content",
    summary: "Its bytes",
    params: arrivalParams,
    query: contentQuery,
    answers: "the bytes",
  },
  arrivalText: { method: "GET", path: "/arrivals/{id}/text", summary: "Its text", params: arrivalParams, answers: "text/plain" },
  arrivalPage: {
    method: "GET",
    path: "/arrivals/{id}/pages/{page}",
    summary: "A page's picture ({n}.png, {n}.jpg) or words ({n}.words)",
    params: arrivalPageParams,
    query: pictureQuery,
    answers: "image/png",
  },
  arrivalTimeline: {
    method: "GET",
    path: "/arrivals/{id}/timeline",
    summary: "What happened to it",
    params: arrivalParams,
    answers: "{items}",
  },
  fileArrival: {
    method: "POST",
    path: "/arrivals/{id}/file",
    summary: "File it",
    params: arrivalParams,
    body: filingSchema,
    answers: "{code, path, placement}",
  },
  previewFiling: {
    method: "POST",
    path: "/arrivals/{id}/preview",
    summary: "What filing it would make; writes nothing",
    params: arrivalParams,
    body: filingSchema,
    answers: "{title, properties, folder, fileName, path}",
  },
  setAside: {
    method: "POST",
    path: "/arrivals/{id}/set-aside",
    summary: "Set it aside; it stays in the register",
    params: arrivalParams,
    body: reason,
    answers: "{state}",
  },
  restore: {
    method: "POST",
    path: "/arrivals/{id}/restore",
    summary: "Bring it back to Arrivals",
    params: arrivalParams,
    body: reason,
    answers: "{state}",
  },
  readAgain: { method: "POST", path: "/arrivals/{id}/read-again", summary: "Read it again", params: arrivalParams, answers: "{state}" },
  document: { method: "GET", path: "/documents/{code}", summary: "A document", params: documentParams, answers: "the document" },
  documentView: {
    method: "GET",
    path: "/documents/{code}/view",
    summary: "What a viewer shows it from",
    params: documentParams,
    answers: "{kind, pages, outline, text}",
  },
  documentContent: {
    method: "GET",
    path: "/documents/{code}/content",
    summary: "Its bytes",
    params: documentParams,
    query: contentQuery,
    answers: "the bytes",
  },
  documentText: { method: "GET", path: "/documents/{code}/text", summary: "Its text", params: documentParams, answers: "text/plain" },
  documentPage: {
    method: "GET",
    path: "/documents/{code}/pages/{page}",
    summary: "A page's picture ({n}.png, {n}.jpg) or words ({n}.words)",
    params: documentPageParams,
    query: pictureQuery,
    answers: "image/png",
  },
  documentTimeline: {
    method: "GET",
    path: "/documents/{code}/timeline",
    summary: "What happened to it",
    params: documentParams,
    answers: "{items}",
  },
  unfile: {
    method: "POST",
    path: "/documents/{code}/unfile",
    summary: "Take it off its records and back to Arrivals",
    params: documentParams,
    answers: "{arrivalId}",
  },
  placeAgain: {
    method: "POST",
    path: "/documents/{code}/place-again",
    summary: "Try to place it again",
    params: documentParams,
    answers: "{state}",
  },
  find: {
    method: "GET",
    path: "/find",
    summary: "Find documents by their words",
    query: z.object({
      q: z.string().max(300).default(""),
      type: short,
      recordType: short,
      company,
      from: day,
      to: day,
      limit: z.coerce.number().int().min(1).max(100).default(25),
      cursor,
    }),
    answers: "{items, total, totalIsExact, facets, next}",
  },
  register: {
    method: "GET",
    path: "/register",
    summary: "Every arrival there ever was; CSV with Accept: text/csv",
    query: arrivalQuery,
    answers: "{items, next, total}",
  },
  job: {
    method: "GET",
    path: "/jobs/{id}",
    summary: "Progress of anything long",
    params: z.object({ id: z.uuid() }),
    answers: "{state, done, total, failures}",
  },
  folderRules: { method: "GET", path: "/folder-rules", summary: "The filing plan", answers: "{items}" },
  putFolderRule: {
    method: "PUT",
    path: "/folder-rules/{type}",
    summary: "Save a folder rule; it holds for records that have no folder yet",
    params: z.object({ type: z.string().max(40) }),
    body: z.object({ rule: folderRuleSchema, version: z.number().int().min(0).nullable().default(null) }),
    answers: "{version}",
  },
  previewFolderRule: {
    method: "POST",
    path: "/folder-rules/{type}/preview",
    summary: "The folders that real records would get",
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
  plans: { method: "GET", path: "/move-plans", summary: "Move plans, newest first", answers: "{items}" },
  drawPlan: {
    method: "POST",
    path: "/move-plans",
    summary: "Draw a move plan: for a changed rule, or for everything out of step",
    body: z.union([
      z.object({ recordType: z.string().max(40), rule: folderRuleSchema, version: z.number().int().min(0) }),
      z.object({ outOfStep: z.union([z.literal("all"), z.array(z.string().max(40)).min(1).max(100)]) }),
    ]),
    answers: "{id}",
  },
  plan: { method: "GET", path: "/move-plans/{id}", summary: "A move plan and how far it is", params: planParams, answers: "the plan" },
  actOnPlan: {
    method: "POST",
    path: "/move-plans/{id}/{act}",
    summary: "Start, stop, continue, undo, retry or drop it",
    params: planParams.extend({ act: z.enum(planActs) }),
    answers: "the plan",
  },
  planSteps: {
    method: "GET",
    path: "/move-plans/{id}/steps",
    summary: "Its moves, old and new; CSV with Accept: text/csv",
    params: planParams,
    query: z.object({ q: short, show: z.enum(["trouble", "numbered", "moved", "planned"]).optional(), limit, cursor }),
    answers: "{items, next, total}",
  },
  planFile: {
    method: "GET",
    path: "/folder-rules/file",
    summary: "The filing plan as one file, YAML or JSON",
    query: z.object({ form: z.enum(["yaml", "json"]).default("yaml") }),
    answers: "the file",
  },
  planFileSchema: {
    method: "GET",
    path: "/folder-rules/schema.json",
    summary: "The JSON Schema of that file",
    open: true,
    answers: "JSON Schema",
  },
  importPlanFile: {
    method: "POST",
    path: "/folder-rules/file",
    summary: "Compare a filing plan with the one in force, or save it",
    body: z.object({ text: z.string().max(1_000_000), save: z.boolean().default(false) }),
    answers: "{differences, errors} or {saved}",
  },
  moveRecordFolder: {
    method: "POST",
    path: "/records/{type}/{key}/move-folder",
    summary: "Move its folder to where the filing plan has it",
    params: recordParams,
    query: z.object({ company }),
    answers: "{move}",
  },
  changeDocument: {
    method: "PATCH",
    path: "/documents/{code}",
    summary: "Change its title, type, properties or clips; answers the move it causes",
    params: documentParams,
    body: changeSchema,
    answers: "{code, title, move}",
  },
  shelveDocument: {
    method: "POST",
    path: "/documents/{code}/shelf",
    summary: "Put it on a shelf, or take it off; it is stored once",
    params: documentParams,
    body: z.object({ shelf: z.number().int(), on: z.boolean().default(true) }),
    answers: "the shelf",
  },
  tree: {
    method: "GET",
    path: "/repository/tree",
    summary: "The next level of the repository below a path",
    query: z.object({ connection: z.string().max(40).optional(), path: z.string().max(1200).default(""), q: short }),
    answers: "{items, truncated}",
  },
  locations: {
    method: "GET",
    path: "/repository/locations",
    summary: "All folders of all records with their state; CSV with Accept: text/csv",
    query: z.object({
      q: short,
      connection: z.string().max(40).optional(),
      type: short,
      company,
      state: z.enum(["placed", "waiting", "moving", "adrift", "failed", "empty"]).optional(),
      sort: z.enum(locationSorts).default("path"),
      order: z.enum(["up", "down"]).default("up"),
      limit,
      cursor,
    }),
    answers: "{items, next, total}",
  },
  shelves: { method: "GET", path: "/repository/shelves", summary: "Shelves", answers: "{items}" },
  makeShelf: {
    method: "POST",
    path: "/repository/shelves",
    summary: "Make a shelf",
    body: z.object({
      connection: z.string().max(40),
      path: z.string().trim().min(1).max(400),
      company: z.string().max(20),
      isConfidential: z.boolean().default(false),
    }),
    answers: "the shelf",
  },
  changeShelf: {
    method: "PATCH",
    path: "/repository/shelves/{id}",
    summary: "Rename or move a shelf, or change who sees it",
    params: z.object({ id: z.coerce.number().int() }),
    body: z.object({
      path: z.string().trim().min(1).max(400).optional(),
      company: z.string().max(20).optional(),
      isConfidential: z.boolean().optional(),
    }),
    answers: "the shelf",
  },
  findings: {
    method: "GET",
    path: "/repository/findings",
    summary: "What was found in the repository and waits for a decision",
    query: z.object({
      state: z.enum(["open", "decided", "settling"]).default("open"),
      kind: z.enum(["new", "changed", "removed", "folder"]).optional(),
      limit,
      cursor,
    }),
    answers: "{items, next, total, kinds}",
  },
  decideFindings: {
    method: "POST",
    path: "/repository/findings/decide",
    summary: "Decide what becomes of findings",
    body: z.object({
      ids: z.array(z.number().int()).min(1).max(500),
      decision: z.enum(allDecisions),
      path: z.string().max(1200).optional(),
    }),
    answers: "{done, failures}",
  },
  scanNow: {
    method: "POST",
    path: "/repository/scan",
    summary: "Look a connection through now",
    body: z.object({ connection: z.string().max(40) }),
    answers: "{queued}",
  },
  connections: { method: "GET", path: "/connections", summary: "Connections to repositories", answers: "{items}" },
  putConnection: {
    method: "PUT",
    path: "/connections/{key}",
    summary: "Make or change a connection; the secret is never given out again",
    params: connectionParams,
    body: connectionInputSchema,
    answers: "{key}",
  },
  checkConnection: {
    method: "POST",
    path: "/connections/{key}/check",
    summary: "Try a connection with everything the program will do",
    params: connectionParams,
    answers: "{steps, passed}",
  },
  keepSetUp: {
    method: "PUT",
    path: "/connections/{key}/set-up",
    summary: "Keep where its set-up stands; null when it is finished",
    params: connectionParams,
    body: z.object({ setUp: setUpSchema.nullable() }),
    answers: "{key}",
  },
  dropConnection: {
    method: "POST",
    path: "/connections/{key}/drop",
    summary: "Forget a connection that nothing stands on",
    params: connectionParams,
    answers: "{key}",
  },
  provision: {
    method: "POST",
    path: "/repository/provision",
    summary: "Make the folders of all records of some types, or again those that failed",
    body: z.object({
      recordTypes: z.array(z.string().max(40)).max(100).default([]),
      connection: z.string().max(40).nullable().default(null),
      again: z.uuid().optional(),
    }),
    answers: "{job}",
  },
  repositorySettings: {
    method: "GET",
    path: "/settings/repository",
    summary: "How often placements are proven again",
    answers: "the settings",
  },
  putRepositorySettings: {
    method: "PUT",
    path: "/settings/repository",
    summary: "Set how often placements are proven again",
    body: repositorySettingsSchema,
    answers: "the settings",
  },
  putPreferences: {
    method: "PUT",
    path: "/me/preferences",
    summary: "One's own preferences",
    body: preferencesSchema,
    answers: "the preferences",
  },
  limits: { method: "GET", path: "/settings/limits", summary: "What is taken in", answers: "the limits" },
  putLimits: { method: "PUT", path: "/settings/limits", summary: "Set what is taken in", body: limitsSchema, answers: "the limits" },
  people: { method: "GET", path: "/people", summary: "People, roles and queues", answers: "{items}" },
});
export type OperationName = keyof typeof operations;
