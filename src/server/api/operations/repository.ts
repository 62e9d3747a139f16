import { z } from "zod";
import { locationSorts } from "../../repository/browse.ts";
import { allDecisions } from "../../repository/decide-findings.ts";
import { connectionInputSchema, setUpSchema } from "../../repository/manage-connections.ts";
import { repositorySettingsSchema } from "../../settings/load-settings.ts";
import { define, limit, cursor, short, company, connectionParams } from "./operation.ts";

/** Calls about connections, folders and what is out of sync. */
export const repositoryOperations = define({
  tree: {
    method: "GET",
    path: "/repository/tree",
    summary: "List the repository below a path",
    query: z.object({ connection: z.string().max(40).optional(), path: z.string().max(1200).default(""), q: short }),
    answers: "{items, truncated}",
  },
  locations: {
    method: "GET",
    path: "/repository/locations",
    summary: "List record folders with their state; CSV with Accept: text/csv",
    query: z.object({
      q: short,
      connection: z.string().max(40).optional(),
      type: short,
      company,
      state: z.enum(["stored", "waiting", "moving", "outOfSync", "failed", "empty"]).optional(),
      sort: z.enum(locationSorts).default("path"),
      order: z.enum(["up", "down"]).default("up"),
      limit,
      cursor,
    }),
    answers: "{items, next, total}",
  },
  outOfSync: {
    method: "GET",
    path: "/repository/out-of-sync",
    summary: "List out-of-sync documents of records one is responsible for",
    query: z.object({ company }),
    answers: "{items, total}",
  },
  shelves: { method: "GET", path: "/repository/shelves", summary: "List shelves", answers: "{items}" },
  makeShelf: {
    method: "POST",
    path: "/repository/shelves",
    summary: "Create a shelf",
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
    summary: "List changes in the repository that need a decision",
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
    summary: "Decide about changes in the repository",
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
    summary: "Scan a connection now",
    body: z.object({ connection: z.string().max(40) }),
    answers: "{queued}",
  },
  connections: { method: "GET", path: "/connections", summary: "List connections", answers: "{items}" },
  putConnection: {
    method: "PUT",
    path: "/connections/{key}",
    summary: "Create or change a connection; secrets are never returned",
    params: connectionParams,
    body: connectionInputSchema,
    answers: "{key}",
  },
  checkConnection: {
    method: "POST",
    path: "/connections/{key}/check",
    summary: "Check a connection with every operation it needs",
    params: connectionParams,
    answers: "{steps, passed}",
  },
  keepSetUp: {
    method: "PUT",
    path: "/connections/{key}/set-up",
    summary: "Save the progress of its set-up; null when finished",
    params: connectionParams,
    body: z.object({ setUp: setUpSchema.nullable() }),
    answers: "{key}",
  },
  dropConnection: {
    method: "POST",
    path: "/connections/{key}/drop",
    summary: "Delete a connection that holds nothing",
    params: connectionParams,
    answers: "{key}",
  },
  provision: {
    method: "POST",
    path: "/repository/provision",
    summary: "Create the folders of all records of some types, or retry failed ones",
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
    summary: "Get how many stored files are verified again per minute",
    answers: "the settings",
  },
  putRepositorySettings: {
    method: "PUT",
    path: "/settings/repository",
    summary: "Set how many stored files are verified again per minute",
    body: repositorySettingsSchema,
    answers: "the settings",
  },
});
