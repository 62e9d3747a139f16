import { stat } from "node:fs/promises";
import { eq } from "drizzle-orm";
import { type ContentKind, contentKinds, hasPictures, type IntakeLimits, isKindAllowed } from "#core/arrivals/limits.ts";
import type { Sha256 } from "#core/shared/brand.ts";
import { ok } from "#core/shared/result.ts";
import { db } from "../db/connect.ts";
import { content, contentPage } from "../documents/tables.ts";
import { AppError } from "../ports/app-error.ts";
import { storeFingerprint } from "../matching/fingerprint-contents.ts";
import { localFile } from "../documents/local-file.ts";
import { now } from "../ports/clock.ts";
import { isDeveloped } from "./develop.ts";
import { detectKind, isEncryptedOffice } from "./detect-kind.ts";
import { canLayOut, isLaidOut } from "./lay-out.ts";
import { readMail, readMessageFile, type ReadMail } from "./read-mail.ts";
import { readOffice } from "./read-office.ts";
import { nothingRead, problemOnly, type Reader, type ReadOutcome } from "./read-outcome.ts";
import { readPdf } from "./read-pdf.ts";
import { readPicture } from "./read-picture.ts";
import { pageRows } from "./page-rows.ts";
import { pageSource } from "./page-picture.ts";
import { readXml } from "./read-xml.ts";
import { readCsv, readText } from "./read-plain.ts";
import { problemWords } from "#core/arrivals/problems.ts";

const unreadable: Reader = async () => ({ ...nothingRead, problem: { code: "not-readable", detail: null } });
/** Text files of other programs have no words until they are laid out. */
const unreadWhereLaidOut: Reader = async () => (canLayOut() ? nothingRead : problemOnly("reader-missing"));
const unread: Reader = async () => nothingRead;

/** A reader for each kind: one that is missing does not compile. Mail is read apart, for its parts. */
const readers: Readonly<Record<ContentKind, Reader>> = {
  pdf: readPdf,
  jpeg: readPicture,
  png: readPicture,
  tiff: readPicture,
  webp: readPicture,
  gif: readPicture,
  heic: readPicture,
  avif: readPicture,
  bmp: readPicture,
  tiffOther: readPicture,
  docx: readOffice,
  xlsx: readOffice,
  docm: readOffice,
  xlsm: readOffice,
  csv: readCsv,
  xml: readXml,
  text: readText,
  mail: unread,
  msg: unread,
  office: unreadWhereLaidOut,
  archive: unreadable,
  program: unreadable,
  unknown: unreadable,
};

/** What is known of a content after reading. */
export interface ReadContent {
  readonly kind: ContentKind;
  readonly outcome: ReadOutcome;
  readonly mail: ReadMail | null;
}

/**
 * Reads a content and keeps what was found. The same bytes read again give the same rows, so it is safe to repeat. Throws only
 * when something of ours is broken (database, landing store), never for what is in the file.
 */
export async function readContent(sha256: Sha256, fileName: string, limits: IntakeLimits): Promise<ReadContent> {
  const file = await localFile(sha256);
  const size = (await stat(file)).size;
  const kind = size === 0 ? "unknown" : await detectKind(file, fileName);
  let outcome: ReadOutcome;
  let mail: ReadMail | null = null;
  if (size === 0) outcome = problemOnly("empty");
  else if (!isKindAllowed(kind, limits)) outcome = problemOnly("type-not-allowed", contentKinds[kind].label);
  else if (kind === "office" && (await isEncryptedOffice(file))) outcome = problemOnly("locked");
  else if (kind === "mail" || kind === "msg") {
    mail = await (kind === "mail" ? readMail(file) : readMessageFile(file));
    outcome = mail.outcome;
  } else {
    try {
      const drawnFrom = isDeveloped(kind) ? await pageSource(sha256, kind) : ok({ file, kind });
      outcome = drawnFrom.ok
        ? await readers[kind](drawnFrom.value.file, { pagesMax: limits.pagesMax, fileName, kind: drawnFrom.value.kind })
        : problemOnly("broken");
    } catch (error) {
      if (error instanceof AppError && error.code === "reader-missing") outcome = problemOnly("reader-missing");
      else throw error;
    }
  }
  const stops = outcome.problem !== null && problemWords[outcome.problem.code].stops;
  // Its pages are looked at in their turn; an office file is laid out before that.
  const waits = !stops && (hasPictures(kind) || (isLaidOut(kind) && canLayOut()));
  await db().transaction(async (tx) => {
    await tx.delete(contentPage).where(eq(contentPage.sha256, sha256));
    for (let at = 0; at < outcome.pageTexts.length; at += 50) {
      await tx.insert(contentPage).values(pageRows(sha256, outcome.pageTexts.slice(at, at + 50), hasPictures(kind)));
    }
    await tx
      .update(content)
      .set({
        kind,
        mediaType: contentKinds[kind].mediaType,
        state: stops ? "failed" : "read",
        problem: outcome.problem,
        pages: outcome.pages,
        body: outcome.body,
        outline: outcome.outline,
        looked: waits ? "no" : "yes",
        readAt: now(),
      })
      .where(eq(content.sha256, sha256));
    if (!stops && !waits) await storeFingerprint(tx, sha256);
  });
  return { kind, outcome, mail };
}
