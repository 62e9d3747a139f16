import { z } from "zod";
import { activitySchema } from "#core/activities/activity.ts";
import { recordSorts } from "../../records/list-records.ts";
import { scopes } from "../../records/load-record-page.ts";
import { sectionActSchema } from "../../sections/change-sections.ts";
import { templateSchema } from "../../sections/manage-templates.ts";
import { recordInputSchema } from "../../records/upsert-record.ts";
import { scanWishSchema } from "../../ways-in/scan-wish.ts";
import { arrivalParams, day, define, limit, cursor, short, recordReference, company, recordParams } from "./operation.ts";

/** Calls about records. */
export const recordsOperations = define({
  lookup: {
    method: "GET",
    path: "/records/lookup",
    summary: "Look up records while typing",
    query: z.object({
      q: z.string().max(200).default(""),
      type: short,
      company,
      parent: z
        .string()
        .regex(/^[^:]+:.+$/, "must be type:key")
        .optional(),
      near: recordReference,
      opened: z.enum(["1"]).optional(),
      limit: z.coerce.number().int().min(1).max(50).default(12),
    }),
    answers: "{items}",
  },
  recordCounts: {
    method: "GET",
    path: "/records/counts",
    summary: "Count records and documents by type",
    query: z.object({ company }),
    answers: "{items}",
  },
  records: {
    method: "GET",
    path: "/records",
    summary: "List records of a type",
    query: z.object({
      type: z.string().max(40),
      company,
      q: short,
      parent: recordReference,
      status: short,
      checklist: z.enum(["missing", "complete"]).optional(),
      from: day,
      to: day,
      sort: z.enum(recordSorts).optional(),
      order: z.enum(["up", "down"]).optional(),
      limit,
      cursor,
    }),
    answers: "{items, next, total, totalIsExact}",
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
    summary: "Get a record with its counts and checklist",
    params: recordParams,
    query: z.object({ company }),
    answers: "the record",
  },
  openedRecord: {
    method: "POST",
    path: "/records/{type}/{key}/opened",
    summary: "Note that one opened it, for one's recently opened records",
    params: recordParams,
    query: z.object({ company }),
    answers: "{done}",
  },
  wishScan: {
    method: "POST",
    path: "/records/{type}/{key}/scan",
    summary: "Assign to it the next batch scanned into a queue within five minutes",
    params: recordParams,
    query: z.object({ company }),
    body: scanWishSchema,
    answers: "{id, queue, until, state, arrival}",
  },
  scanWish: {
    method: "GET",
    path: "/scans/{id}",
    summary: "Get the state of an expected scan",
    params: arrivalParams,
    answers: "{id, queue, until, state: waiting, arrived or over, arrival}",
  },
  endScanWish: {
    method: "POST",
    path: "/scans/{id}/end",
    summary: "Stop waiting for an expected scan",
    params: arrivalParams,
    answers: "the same",
  },
  recordDocuments: {
    method: "GET",
    path: "/records/{type}/{key}/documents",
    summary: "List its documents: own, along its chain, of its parent, or of its child records",
    params: recordParams,
    query: z.object({ company, scope: z.enum(scopes).default("own"), limit, cursor }),
    answers: "{items, next}",
  },
  writeActivity: {
    method: "POST",
    path: "/records/{type}/{key}/activities",
    summary: "Record a call, visit, message or meeting as a document",
    params: recordParams,
    query: z.object({ company }),
    body: activitySchema,
    answers: "{code, title, path, location}",
  },
  changeSections: {
    method: "POST",
    path: "/records/{type}/{key}/sections",
    summary: "Move documents between its sections, or change its sections",
    params: recordParams,
    query: z.object({ company }),
    body: sectionActSchema,
    answers: "{moved}",
  },
  sectionTemplates: { method: "GET", path: "/sections", summary: "List the sections of all record types", answers: "{items}" },
  putSectionTemplate: {
    method: "PUT",
    path: "/sections/{type}",
    summary: "Save a record type's sections",
    params: z.object({ type: z.string().max(40) }),
    body: templateSchema,
    answers: "{version}",
  },
  recordTimeline: {
    method: "GET",
    path: "/records/{type}/{key}/timeline",
    summary: "Get its timeline",
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
});
