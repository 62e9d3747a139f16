import type { RefusalCode } from "./result.ts";

/** What a person or program is told: HTTP status, what happened, and what to do next. */
export interface Presentation {
  readonly status: number;
  readonly title: string;
  readonly next: string;
}

/** The one table from refusal code to words. Whoever adds a code adds its words here, or it does not compile. */
export const presentations = {
  "bad-input": { status: 400, title: "Some of this could not be understood", next: "Put the marked values right and try again." },
  "signed-out": { status: 401, title: "You are not signed in", next: "Sign in, or send a valid key." },
  "not-found": { status: 404, title: "There is nothing here", next: "It may have moved, or you may not have the right to see it." },
  "not-allowed": { status: 403, title: "Your roles do not cover this", next: "Ask an administrator for the right." },
  stale: { status: 409, title: "Somebody else was quicker", next: "Look at it again: it has changed since you opened it." },
  "not-sure": { status: 409, title: "The program is not sure enough", next: "Look at this one yourself, and file it by hand." },
  claimed: { status: 409, title: "Somebody else works on this", next: "Wait until they are done, or take it over." },
  "too-large": { status: 413, title: "The file is larger than allowed", next: "Split it, or ask an administrator to raise the limit." },
  "no-file": { status: 400, title: "No file came with this", next: "Send the paper as the part named file." },
  "cut-off": { status: 400, title: "The file did not arrive whole", next: "Nothing was kept. Send it again." },
  "unknown-queue": { status: 400, title: "There is no such queue", next: "Choose one of your queues." },
  "unknown-type": { status: 400, title: "There is no such type", next: "Choose one of the types in Set-up." },
  "unknown-record": { status: 400, title: "There is no such record", next: "Look the record up and choose it." },
  "no-folder-rule": { status: 409, title: "This record type has no folder rule", next: "Give it one under Filing plan." },
  "no-clip": { status: 400, title: "No record is chosen", next: "Look up the record that this paper belongs to." },
  "reaches-many": {
    status: 409,
    title: "This would show on many records",
    next: "Agree to it, or choose fewer record types that see it.",
  },
  "name-taken": {
    status: 409,
    title: "A paper of that name is there already",
    next: "Choose: new version, replace, or separate document.",
  },
  "path-too-long": { status: 409, title: "The place would be too long for the repository", next: "Shorten the title or the folder names." },
  "key-reused": { status: 409, title: "This idempotency key was used for something else", next: "Use a new key for a new request." },
  "still-there": { status: 409, title: "This is still in use", next: "Take it off where it is used first." },
  "not-readable": { status: 422, title: "This file could not be read", next: "Download the original, or file it by hand." },
  "wrong-password": {
    status: 422,
    title: "That is not the password of this file",
    next: "Nothing was changed. Check capital letters and blanks, or ask the sender for an open copy.",
  },
  "not-for-bench": {
    status: 422,
    title: "Only PDFs and pictures can be taken apart",
    next: "File this one whole, or make a PDF of it first.",
  },
  "pack-empty": { status: 400, title: "There is nothing to take out", next: "None of these records has papers that you may see." },
  "pack-gone": { status: 410, title: "This pack is not kept any more", next: "Make it again: packs are kept for seven days." },
  "no-space": {
    status: 507,
    title: "There is no space left to keep the file",
    next: "Nothing was kept. Tell an administrator, then send it again.",
  },
  "repository-away": {
    status: 503,
    title: "The repository cannot be reached",
    next: "The paper is kept there and nowhere else. It can be read again as soon as the repository answers.",
  },
  "repository-unreachable": {
    status: 503,
    title: "The repository cannot be reached",
    next: "Check that it runs, that the address is right, and that the folder is plugged in. Nothing was lost; it is tried again by itself.",
  },
  "repository-refused": {
    status: 409,
    title: "The repository lets nobody in",
    next: "Check name and password of the connection, and its rights to write.",
  },
  "repository-address": {
    status: 409,
    title: "Nothing that can hold documents answers at this address",
    next: "Check the address, the port and the path behind it.",
  },
  "repository-password": { status: 409, title: "Name or password is wrong", next: "Type both again. Nothing was changed." },
  "repository-rights": {
    status: 409,
    title: "The account is known but has no rights here",
    next: "Give it the rights to list, read and write there.",
  },
  "bucket-missing": { status: 409, title: "There is no such bucket", next: "Check the spelling of the bucket, or make it there first." },
  "repository-full": { status: 507, title: "The repository is full", next: "Make room there. What waits is placed by itself afterwards." },
  "not-proven": {
    status: 409,
    title: "The file did not come back as it was put",
    next: "Look at the repository: something changes files there as they are written.",
  },
  "bytes-damaged": {
    status: 409,
    title: "What is held of this paper is damaged",
    next: "Bring its file back from the backup, then try again.",
  },
  "plan-state": { status: 409, title: "The move plan is not in a state for that", next: "Look at it again: it has gone on since." },
  "no-secret": { status: 400, title: "The password is missing", next: "Type it again; it is never shown." },
  unavailable: { status: 503, title: "Part of the program is not answering", next: "Nothing was lost. Try again in a moment." },
} as const satisfies Record<RefusalCode, Presentation>;
