import { z } from "zod";
import { locationSorts } from "../../repository/browse.ts";
import { allDecisions } from "../../repository/decide-findings.ts";
import { connectionInputSchema, setUpSchema } from "../../repository/manage-connections.ts";
import { repositorySettingsSchema } from "../../settings/load-settings.ts";
import { define, limit, cursor, short, company, connectionParams } from "./operation.ts";

/** Calls about connections, folders and what is adrift. */
export const repositoryOperations = define({
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
  outOfSync: {
    method: "GET",
    path: "/repository/out-of-sync",
    summary: "Documents out of sync on the records that you are responsible for",
    query: z.object({ company }),
    answers: "{items, total}",
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
});
