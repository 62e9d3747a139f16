import type { RefusalCode } from "./result.ts";

/** What a person or program is told: HTTP status, what happened, and what to do next. */
export interface Presentation {
  readonly status: number;
  readonly title: string;
  readonly next: string;
}

/** The one table from refusal code to words. Whoever adds a code adds its words here, or it does not compile. */
export const presentations = {
  "bad-input": { status: 400, title: "Some values are invalid", next: "Correct the marked values and try again." },
  "signed-out": { status: 401, title: "You are not signed in", next: "Sign in, or send a valid key." },
  "not-found": { status: 404, title: "Not found", next: "It may have moved, or you may not have the right to see it." },
  "not-allowed": { status: 403, title: "Your roles do not allow this", next: "Ask an administrator for the right." },
  stale: { status: 409, title: "Changed by somebody else", next: "Reload: it has changed since you opened it." },
  "not-sure": { status: 409, title: "Not certain enough", next: "Check this one and file it by hand." },
  claimed: { status: 409, title: "Somebody else is working on this", next: "Wait until they are done, or take over." },
  "too-large": { status: 413, title: "The file is larger than allowed", next: "Split it, or ask an administrator to raise the limit." },
  "no-file": { status: 400, title: "The file is missing", next: "Send the document as the form part named file." },
  "cut-off": { status: 400, title: "The upload was incomplete", next: "Nothing was stored. Send it again." },
  "unknown-queue": { status: 400, title: "Unknown queue", next: "Choose one of your queues." },
  "unknown-type": { status: 400, title: "Unknown type", next: "Choose one of the types in Set-up." },
  "unknown-record": { status: 400, title: "Unknown record", next: "Look up the record and choose it." },
  "no-folder-rule": { status: 409, title: "This record type has no folder rule", next: "Add one in the filing plan." },
  "no-clip": { status: 400, title: "No record selected", next: "Look up the record that this document belongs to." },
  "reaches-many": {
    status: 409,
    title: "This would be shown on many records",
    next: "Confirm, or choose fewer record types.",
  },
  "name-taken": {
    status: 409,
    title: "A document with that name exists",
    next: "Choose: new version, replace, or separate document.",
  },
  "path-too-long": { status: 409, title: "The path would be too long for the repository", next: "Shorten the title or the folder names." },
  "key-reused": { status: 409, title: "This idempotency key was used for another request", next: "Use a new key for a new request." },
  "still-there": { status: 409, title: "Still in use", next: "Remove it where it is used first." },
  "not-readable": { status: 422, title: "This file could not be read", next: "Download the original, or file it by hand." },
  "wrong-password": {
    status: 422,
    title: "Wrong password for this file",
    next: "Nothing was changed. Check capitals and spaces, or ask the sender for an unlocked copy.",
  },
  "not-for-bench": {
    status: 422,
    title: "Only PDFs and pictures can be split",
    next: "File it whole, or convert it to PDF first.",
  },
  "pack-empty": { status: 400, title: "There is nothing to pack", next: "None of these records has documents you may see." },
  "pack-gone": { status: 410, title: "This pack has expired", next: "Create it again: packs are kept for seven days." },
  "no-space": {
    status: 507,
    title: "No storage space left",
    next: "Nothing was stored. Tell an administrator, then send it again.",
  },
  "repository-away": {
    status: 503,
    title: "The repository cannot be reached",
    next: "The document is stored there only. It is available again when the repository answers.",
  },
  "repository-unreachable": {
    status: 503,
    title: "The repository cannot be reached",
    next: "Check that it runs, that the address is correct and that the folder is mounted. Nothing was lost; it is retried automatically.",
  },
  "repository-refused": {
    status: 409,
    title: "The repository refuses access",
    next: "Check the connection's user name, password and write permission.",
  },
  "repository-address": {
    status: 409,
    title: "No repository answers at this address",
    next: "Check the address, port and path.",
  },
  "repository-password": { status: 409, title: "User name or password is wrong", next: "Enter both again. Nothing was changed." },
  "repository-rights": {
    status: 409,
    title: "The account has no permissions here",
    next: "Give it list, read and write permission.",
  },
  "bucket-missing": { status: 409, title: "Unknown bucket", next: "Check the bucket name, or create it there first." },
  "repository-full": {
    status: 507,
    title: "The repository is full",
    next: "Free some space. Waiting documents are then stored automatically.",
  },
  "not-proven": {
    status: 409,
    title: "The stored file failed verification",
    next: "Check for software that changes files in the repository.",
  },
  "bytes-damaged": {
    status: 409,
    title: "The stored copy of this document is damaged",
    next: "Restore its file from the backup, then try again.",
  },
  "plan-state": { status: 409, title: "The move plan's state does not allow this", next: "Reload: it has continued since." },
  "no-secret": { status: 400, title: "The password is missing", next: "Enter it again; it is never shown." },
  unavailable: { status: 503, title: "Part of the server is not answering", next: "Nothing was lost. Try again in a moment." },
} as const satisfies Record<RefusalCode, Presentation>;
