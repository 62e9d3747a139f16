import { z } from "zod";
import { weightsWishSchema } from "../../suggesting/weights.ts";
import { handsFreeChangeSchema, undoDaySchema } from "../../hands-free/manage.ts";
import { toleranceSchema } from "#core/comparing/tolerance.ts";
import { reachSettingsSchema } from "#core/reach/reach.ts";
import { limitsSchema } from "#core/arrivals/limits.ts";
import { queueMailSchema } from "#core/arrivals/mail-in.ts";
import { preferencesChangeSchema } from "../../settings/load-settings.ts";
import { queueFolderSchema, queueIntakeSchema } from "../../ways-in/queue-ways.ts";
import { define } from "./operation.ts";

/** Calls about people, settings and the service itself. */
export const settingsOperations = define({
  health: { method: "GET", path: "/health", summary: "Whether it can take work", open: true, answers: "{status, version, checks}" },
  openapi: { method: "GET", path: "/openapi.json", summary: "This description", open: true, answers: "OpenAPI 3.1" },
  me: {
    method: "GET",
    path: "/me",
    summary: "Who asks, and the types, companies, queues and limits they work with",
    answers: "the person",
  },
  job: {
    method: "GET",
    path: "/jobs/{id}",
    summary: "Progress of anything long",
    params: z.object({ id: z.uuid() }),
    answers: "{state, done, total, failures}",
  },
  putPreferences: {
    method: "PUT",
    path: "/me/preferences",
    summary: "One's own preferences",
    body: preferencesChangeSchema,
    answers: "the preferences",
  },
  tolerance: {
    method: "GET",
    path: "/settings/tolerance",
    summary: "How far a paper may be from its order and still fit",
    answers: "the tolerance",
  },
  putTolerance: { method: "PUT", path: "/settings/tolerance", summary: "Set it", body: toleranceSchema, answers: "the tolerance" },
  reachSettings: {
    method: "GET",
    path: "/settings/reach",
    summary: "Which record types see the clips of each document type, and from how many records on it is asked",
    answers: "{askAbove, types}",
  },
  putReachSettings: { method: "PUT", path: "/settings/reach", summary: "Set it", body: reachSettingsSchema, answers: "{askAbove, types}" },
  weights: {
    method: "GET",
    path: "/settings/weights",
    summary: "How much each kind of evidence weighs when records are proposed, and what it was learnt from",
    answers: "{version, weights, versions}",
  },
  changeWeights: {
    method: "POST",
    path: "/settings/weights",
    summary: "Learn them anew from what people decided, or take an earlier version (0: the starting ones)",
    body: weightsWishSchema,
    answers: "{version, isTaken, papers}",
  },
  handsFree: {
    method: "GET",
    path: "/hands-free",
    summary: "Hands-free filing by queue and type, with what is to be expected of it",
    answers: "{items, historyMin}",
  },
  putHandsFree: {
    method: "PUT",
    path: "/hands-free",
    summary: "Switch it on or off, and say how well it has to go",
    body: handsFreeChangeSchema,
    answers: "{isOn}",
  },
  filedByItself: {
    method: "GET",
    path: "/hands-free/papers",
    summary: "What was filed without a person, by day",
    query: z.object({ day: z.iso.date().optional() }),
    answers: "{days, items}",
  },
  undoDay: {
    method: "POST",
    path: "/hands-free/undo",
    summary: "Take everything of one day back to Arrivals that was filed without a person",
    body: undoDaySchema,
    answers: "{done, failures}",
  },
  checkedPaper: {
    method: "GET",
    path: "/hands-free/papers/{code}",
    summary: "In what the program had decided otherwise on a paper that was held back, once a person has filed it",
    params: z.object({ code: z.string().max(20) }),
    answers: "{isSample, differences}",
  },
  limits: { method: "GET", path: "/settings/limits", summary: "What is taken in", answers: "the limits" },
  putLimits: { method: "PUT", path: "/settings/limits", summary: "Set what is taken in", body: limitsSchema, answers: "the limits" },
  queues: { method: "GET", path: "/settings/queues", summary: "Queues, their mail addresses and what they keep", answers: "{items}" },
  putQueue: {
    method: "PUT",
    path: "/settings/queues/{key}",
    summary: "Set how a queue takes mail",
    params: z.object({ key: z.string().max(40) }),
    body: queueMailSchema,
    answers: "what was set",
  },
  putQueueFolder: {
    method: "PUT",
    path: "/settings/queues/{key}/folder",
    summary: "Set what becomes of files in a queue's watched folder, or that none is watched",
    params: z.object({ key: z.string().max(40) }),
    body: queueFolderSchema,
    answers: "{folder}",
  },
  putQueueIntake: {
    method: "PUT",
    path: "/settings/queues/{key}/intake",
    summary: "What a queue does by itself with papers that carry codes, and what it takes in",
    params: z.object({ key: z.string().max(40) }),
    body: queueIntakeSchema,
    answers: "{codesBy}",
  },
  people: { method: "GET", path: "/people", summary: "People, roles and queues", answers: "{items}" },
});
