import { z } from "zod";
import type { JobName } from "#server/jobs/job-names.ts";
import { parseSha256 } from "#core/shared/brand.ts";
import { finishAnalysed, finishWithoutOcr, analyseFurther } from "#server/arrivals/finish-reading.ts";
import { giveUpReading, readArrival } from "#server/arrivals/read-arrival.ts";
import { sortByCodes } from "#server/codes/sort-by-codes.ts";
import { giveUpRecheck, recheckType } from "#server/checklists/manage-rules.ts";
import { describeError, isOutage } from "#server/db/describe-error.ts";
import { followNumber } from "#server/drafts/follow-number.ts";
import { sendDraft } from "#server/drafts/send-draft.ts";
import { fillAfterReading } from "#server/documents/fill-after-reading.ts";
import { finishUnfiling } from "#server/documents/unfile.ts";
import { executeMovePlan, pausePlan } from "#server/filing-plan/execute-move-plan.ts";
import { computeMovePlan, giveUpDrawing } from "#server/filing-plan/compute-move-plan.ts";
import { giveUpPlacing, placeDocument } from "#server/filing-plan/place-document.ts";
import { checkDocument } from "#server/automatic-filing/check-document.ts";
import { fileAutomatically } from "#server/automatic-filing/file-automatically.ts";
import { fingerprintContents, fingerprintThese } from "#server/matching/fingerprint-contents.ts";
import { clearPacks, giveUpPack, makePack } from "#server/packs/make-pack.ts";
import { systemCode } from "#server/ports/system-code.ts";
import { importRecords } from "#server/records/import-records.ts";
import { giveUpAnalysis, analyseOrSkip } from "#server/reading/analyse-pages.ts";
import { addUpTallies } from "#server/records/record-tallies.ts";
import { clearAnalyses } from "#server/matching/cache-analysis.ts";
import { suggestAll } from "#server/matching/suggest-all.ts";
import { suggestFor } from "#server/matching/suggest-for.ts";
import { learnWeightsAnew } from "#server/matching/weights.ts";
import { PROGRAM } from "#server/timeline/write-lines.ts";
import { learnFromFiling } from "#server/matching/learn-from-filing.ts";
import { enterMissing } from "#server/records/enter-references.ts";
import { carryPointers, rewritePointers } from "#server/repository/carry-pointers.ts";
import { proveSome } from "#server/repository/prove-again.ts";
import { provision } from "#server/repository/provision.ts";
import { releaseLocal } from "#server/repository/release-local.ts";
import { scanConnection } from "#server/repository/scan.ts";
import { takeFound } from "#server/repository/take-found.ts";
import { indexDocument } from "#server/search/index-document.ts";
import { indexWaiting, keepWaitingIndex } from "#server/search/index-waiting.ts";
import { sealLines, VERY_LATE_MS } from "#server/timeline/seal-lines.ts";

/** A job's handler. `isLast` says that it will not be tried again: then it leaves the thing in a state that a person sees. */
export type Handler = (payload: unknown, isLast: boolean) => Promise<void>;

const arrivalPayload = z.object({ arrivalId: z.uuid() });
const documentPayload = z.object({ documentId: z.number().int() });
const draftPayload = z.object({ draftId: z.uuid() });
const planPayload = z.object({ plan: z.uuid() });
const jobPayload = z.object({ job: z.uuid() });

/** One handler for each job name; a missing one does not compile. */
export const handlers: Readonly<Record<JobName, Handler>> = {
  async read(payload, isLast) {
    const { arrivalId } = arrivalPayload.parse(payload);
    await orGiveUp(
      isLast,
      () => readArrival(arrivalId),
      () => giveUpReading(arrivalId),
    );
  },
  async analysePages(payload, isLast) {
    const sha256 = parseSha256(z.object({ sha256: z.string() }).parse(payload).sha256);
    let left = 0;
    await orGiveUp(
      isLast,
      async () => void (left = await analyseOrSkip(sha256)),
      () => giveUpAnalysis(sha256),
    );
    await (left > 0 ? analyseFurther(sha256) : finishAnalysed(sha256));
  },
  finishWithoutOcr: (payload) => finishWithoutOcr(arrivalPayload.parse(payload).arrivalId),
  async suggest(payload) {
    const { arrivalId } = arrivalPayload.parse(payload);
    await suggestFor(arrivalId);
    // A record that came later may have made it sure.
    await fileAutomatically(arrivalId);
  },
  async learnWeights() {
    await learnWeightsAnew(PROGRAM);
  },
  fileAutomatically: (payload) => fileAutomatically(arrivalPayload.parse(payload).arrivalId),
  checkAutomaticFiling: (payload) => checkDocument(documentPayload.parse(payload).documentId),
  async learn(payload) {
    await learnFromFiling(documentPayload.parse(payload).documentId);
  },
  async enterReferences() {
    while ((await enterMissing()) > 0);
  },
  sendDraft: (payload) => sendDraft(draftPayload.parse(payload).draftId),
  followNumber: (payload) => followNumber(draftPayload.parse(payload).draftId),
  sort: (payload) => sortByCodes(arrivalPayload.parse(payload).arrivalId),
  async place(payload, isLast) {
    const { documentId } = documentPayload.parse(payload);
    await orGiveUp(
      isLast,
      () => placeDocument(documentId),
      (why) => giveUpPlacing(documentId, why),
    );
  },
  takeBack: (payload) => finishUnfiling(documentPayload.parse(payload).documentId),
  async fillProperties(payload) {
    await fillAfterReading(documentPayload.parse(payload).documentId);
  },
  async indexWaiting(payload) {
    const { sha256 } = z.object({ sha256: z.string().optional() }).parse(payload);
    await (sha256 === undefined ? keepWaitingIndex() : indexWaiting(sha256));
  },
  index: (payload) => indexDocument(documentPayload.parse(payload).documentId),
  async seal() {
    // Those that took longer to be seen than the beat looks back.
    await sealLines(VERY_LATE_MS);
  },
  importRecords: (payload) => importRecords(jobPayload.parse(payload).job),
  async computeMovePlan(payload, isLast) {
    const { plan } = planPayload.parse(payload);
    await orGiveUp(
      isLast,
      () => computeMovePlan(plan),
      (why) => giveUpDrawing(plan, why),
    );
  },
  async executeMovePlan(payload, isLast) {
    const { plan } = planPayload.parse(payload);
    try {
      await executeMovePlan(plan);
    } catch (error) {
      // Nothing is given up on: the plan says what it waits for, and can be stopped, continued or undone.
      await pausePlan(plan, systemCode(error) ?? "unknown", isLast && !isOutage(error));
      throw error;
    }
  },
  provision: (payload) => provision(jobPayload.parse(payload).job),
  scan: (payload) => scanConnection(z.object({ connection: z.string() }).parse(payload).connection),
  takeFound: (payload) => takeFound(z.object({ finding: z.number().int() }).parse(payload).finding),
  async verifyStored() {
    await proveSome();
  },
  async fingerprint(payload) {
    const { contents } = z.object({ contents: z.array(z.string()).optional() }).parse(payload);
    await (contents ? fingerprintThese(contents) : fingerprintContents());
  },
  async releaseLocal() {
    await releaseLocal();
  },
  async makePack(payload, isLast) {
    const { job } = jobPayload.parse(payload);
    try {
      await makePack(job);
    } catch (error) {
      // A pack that is too long is so the next time too.
      const tooLong = systemCode(error) === "pack-too-long";
      if (!tooLong && !isLast) throw error;
      await giveUpPack(job, systemCode(error) ?? "unknown");
    }
  },
  clearPacks: () => clearPacks(),
  async suggestAll() {
    await suggestAll();
  },
  async clearAnalyses() {
    await clearAnalyses();
  },
  async addUpTallies() {
    await addUpTallies();
  },
  async recheck(payload, isLast) {
    const { job } = jobPayload.parse(payload);
    await orGiveUp(
      isLast,
      () => recheckType(job),
      (why) => giveUpRecheck(job, why),
    );
  },
  pointers: () => carryPointers(),
  rewritePointers: (payload) => rewritePointers(z.object({ connection: z.string() }).parse(payload).connection),
};

/** Does something that is tried several times; at the last try it says what came of it instead of failing once more. */
export async function orGiveUp(isLast: boolean, act: () => Promise<void>, giveUp: (why: string) => Promise<void>): Promise<void> {
  try {
    await act();
  } catch (error) {
    // While the database or the repository is away nothing is given up on: the tries are begun again when it is back.
    if (!isLast || isOutage(error) || systemCode(error) === "repository-unreachable") throw error;
    console.error(`given up: ${describeError(error)}`);
    await giveUp(systemCode(error) ?? "unknown");
  }
}
