import { arrivalsOperations } from "./operations/arrivals.ts";
import { benchOperations } from "./operations/bench.ts";
import { checklistsOperations } from "./operations/checklists.ts";
import { documentsOperations } from "./operations/documents.ts";
import { draftsOperations } from "./operations/drafts.ts";
import { filingPlanOperations } from "./operations/filing-plan.ts";
import { packsOperations } from "./operations/packs.ts";
import { recordsOperations } from "./operations/records.ts";
import { repositoryOperations } from "./operations/repository.ts";
import { settingsOperations } from "./operations/settings.ts";

export type { Operation } from "./operations/operation.ts";

/** Every call of the HTTP API by its name. */
export const operations = {
  ...settingsOperations,
  ...recordsOperations,
  ...arrivalsOperations,
  ...benchOperations,
  ...draftsOperations,
  ...checklistsOperations,
  ...documentsOperations,
  ...filingPlanOperations,
  ...packsOperations,
  ...repositoryOperations,
};
export type OperationName = keyof typeof operations;
