import { z } from "zod";
import { weightsWishSchema } from "../../matching/weights.ts";
import { automaticFilingChangeSchema, undoDaySchema } from "../../automatic-filing/manage.ts";
import { toleranceSchema } from "#core/comparing/tolerance.ts";
import { reachSettingsSchema } from "#core/reach/reach.ts";
import { limitsSchema } from "#core/arrivals/limits.ts";
import { queueMailSchema } from "#core/arrivals/mail-in.ts";
import { preferencesChangeSchema } from "../../settings/load-settings.ts";
import { queueFolderSchema, queueIntakeSchema } from "../../ways-in/queue-ways.ts";
import { define } from "./operation.ts";

/** Calls about people, settings and the service itself. */
export const settingsOperations = define({
  health: { method: "GET", path: "/health", summary: "Report whether it can take work", open: true, answers: "{status, version, checks}" },
  openapi: { method: "GET", path: "/openapi.json", summary: "Get this description", open: true, answers: "OpenAPI 3.1" },
  me: {
    method: "GET",
    path: "/me",
    summary: "Get one's own person, types, companies, queues and limits",
    answers: "the person",
  },
  job: {
    method: "GET",
    path: "/jobs/{id}",
    summary: "Get the progress of a job",
    params: z.object({ id: z.uuid() }),
    answers: "{state, done, total, failures}",
  },
  putPreferences: {
    method: "PUT",
    path: "/me/preferences",
    summary: "Change one's own preferences",
    body: preferencesChangeSchema,
    answers: "the preferences",
  },
  tolerance: {
    method: "GET",
    path: "/settings/tolerance",
    summary: "Get the tolerances for comparing an invoice with its order",
    answers: "the tolerance",
  },
  putTolerance: { method: "PUT", path: "/settings/tolerance", summary: "Set it", body: toleranceSchema, answers: "the tolerance" },
  reachSettings: {
    method: "GET",
    path: "/settings/reach",
    summary: "Get on which record types each document type is also shown",
    answers: "{askAbove, types}",
  },
  putReachSettings: { method: "PUT", path: "/settings/reach", summary: "Set it", body: reachSettingsSchema, answers: "{askAbove, types}" },
  weights: {
    method: "GET",
    path: "/settings/weights",
    summary: "Get the evidence weights and their versions",
    answers: "{version, weights, versions}",
  },
  changeWeights: {
    method: "POST",
    path: "/settings/weights",
    summary: "Learn the evidence weights again, or use an earlier version (0: the initial ones)",
    body: weightsWishSchema,
    answers: "{version, isTaken, papers}",
  },
  automaticFiling: {
    method: "GET",
    path: "/hands-free",
    summary: "Get automatic filing by queue and type with its measured accuracy",
    answers: "{items, historyMin}",
  },
  putAutomaticFiling: {
    method: "PUT",
    path: "/hands-free",
    summary: "Switch automatic filing on or off with its required accuracy",
    body: automaticFilingChangeSchema,
    answers: "{isOn}",
  },
  filedByItself: {
    method: "GET",
    path: "/hands-free/papers",
    summary: "List automatically filed documents by day",
    query: z.object({ day: z.iso.date().optional() }),
    answers: "{days, items}",
  },
  undoDay: {
    method: "POST",
    path: "/hands-free/undo",
    summary: "Take back all documents filed automatically on one day",
    body: undoDaySchema,
    answers: "{done, failures}",
  },
  checkedPaper: {
    method: "GET",
    path: "/hands-free/papers/{code}",
    summary: "Compare a held-back sample's filing with the automatic decision",
    params: z.object({ code: z.string().max(20) }),
    answers: "{isSample, differences}",
  },
  limits: { method: "GET", path: "/settings/limits", summary: "Get the file limits", answers: "the limits" },
  putLimits: { method: "PUT", path: "/settings/limits", summary: "Set the file limits", body: limitsSchema, answers: "the limits" },
  queues: { method: "GET", path: "/settings/queues", summary: "List queues with their intake settings", answers: "{items}" },
  putQueue: {
    method: "PUT",
    path: "/settings/queues/{key}",
    summary: "Set how a queue receives mail",
    params: z.object({ key: z.string().max(40) }),
    body: queueMailSchema,
    answers: "what was set",
  },
  putQueueFolder: {
    method: "PUT",
    path: "/settings/queues/{key}/folder",
    summary: "Set a queue's watched folder, or stop watching it",
    params: z.object({ key: z.string().max(40) }),
    body: queueFolderSchema,
    answers: "{folder}",
  },
  putQueueIntake: {
    method: "PUT",
    path: "/settings/queues/{key}/intake",
    summary: "Set how a queue treats barcodes and which files it accepts",
    params: z.object({ key: z.string().max(40) }),
    body: queueIntakeSchema,
    answers: "{codesBy}",
  },
  people: { method: "GET", path: "/people", summary: "List people with roles and queues", answers: "{items}" },
});
