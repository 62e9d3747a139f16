/** What can happen to a document, record or arrival. Lines are never edited; new verbs are only added. */
export const verbs = [
  "takenIn",
  "read",
  "readingFailed",
  "setAside",
  "restored",
  "filed",
  "unfiled",
  "clipped",
  "unclipped",
  "retitled",
  "propertiesChanged",
  "typeChanged",
  "placed",
  "placingFailed",
  "recordMade",
  "recordChanged",
  "ruleChanged",
  "versionAdded",
  "triedAgain",
  "renamed",
  "moved",
  "folderMoved",
  "movePlanBegun",
  "movePlanEnded",
  "foundNew",
  "foundChanged",
  "foundGone",
  "foundMoved",
  "foundDecided",
  "provenAgain",
  "localGone",
  "shelved",
  "unshelved",
  "connectionChanged",
  "queueChanged",
  "split",
  "joined",
  "madeOnBench",
  "putBack",
  "handedOver",
  "takenOver",
  "junkTaught",
  "junkForgotten",
  "typeSaid",
  "toldApart",
  "draftMade",
  "draftSent",
  "draftAccepted",
  "draftRefused",
  "draftWithdrawn",
  "handsFreeSet",
  "handsFreeOff",
  "weightsLearnt",
  "checklistChanged",
  "itemAccepted",
  "itemTakenBack",
  "itemWaived",
  "itemAsked",
  "itemTied",
  "itemUntied",
  "itemAdded",
  "itemRemoved",
  "responsibleSet",
  "reminded",
] as const;
export type Verb = (typeof verbs)[number];

/** The words of a line: who did it is shown before, when after. `{…}` are filled from the line's details. */
export const verbWords = {
  takenIn: "took in {fileName}",
  read: "read {pages}",
  readingFailed: "could not read it: {problem}",
  setAside: "set it aside: {reason}",
  restored: "restored it to Arrivals",
  filed: "filed it as {documentType}",
  unfiled: "took it back to Arrivals",
  clipped: "clipped {title}",
  unclipped: "took off {title}",
  retitled: "changed the title to {title}",
  propertiesChanged: "changed {fields}",
  typeChanged: "changed the type to {documentType}",
  placed: "placed it in {path}",
  placingFailed: "could not place it: {why}",
  recordMade: "made this record",
  recordChanged: "changed {fields}",
  ruleChanged: "changed the folder rule of {recordType}",
  versionAdded: "added version {version}",
  triedAgain: "asked to try again",
  renamed: "renamed it to {fileName}",
  moved: "moved it to {path}",
  folderMoved: "moved the folder from {from} to {to}",
  movePlanBegun: "began to move {label}",
  movePlanEnded: "moved {label}: {done} of {steps} steps",
  foundNew: "found it in the repository as {path}",
  foundChanged: "found it changed in the repository",
  foundGone: "found its file gone from the repository",
  foundMoved: "found it moved in the repository to {path}",
  foundDecided: "decided what was found in the repository: {decision}",
  provenAgain: "proved it again in the repository",
  localGone: "removed the local copy; it is read from the repository",
  shelved: "put it on the shelf {path}",
  unshelved: "took it off the shelf {path}",
  connectionChanged: "changed the connection {label}",
  split: "took it apart on the bench into {parts}{dropped}",
  joined: "put it together with others on the bench into {parts}{dropped}",
  madeOnBench: "made it on the bench from {pages}",
  putBack: "put it back as it was",
  handedOver: "handed it to {whom}: {word}",
  takenOver: "took it over from {whom}",
  junkTaught: "said that what {sender} sends is junk",
  junkForgotten: "said that what {sender} sends is no junk after all",
  typeSaid: "said that it is a {documentType}",
  toldApart: "said that it is another paper than {other}",
  draftMade: "made it here from a paper: {type}",
  draftSent: "put {fields} right and sent it again",
  draftAccepted: "got its number from the business system: {number}",
  draftRefused: "got it back from the business system: {why}",
  draftWithdrawn: "withdrew it",
  handsFreeSet: "switched hands-free filing of {documentType} in {queue} {state}, asking {asked}",
  handsFreeOff: "switched hands-free filing of {documentType} in {queue} off by itself: at least {bound} right was all that could be said",
  weightsLearnt: "set what evidence weighs anew from {papers} papers: version {version}",
  checklistChanged: "changed the checklist of {recordType}",
  itemAccepted: "accepted the paper for {item}",
  itemTakenBack: "took back that the paper will do for {item}",
  itemWaived: "waived {item}: {reason}",
  itemAsked: "asked for {item} again",
  itemTied: "tied the paper to {item}",
  itemUntied: "took the paper from {item}",
  itemAdded: "added {item} to the checklist",
  itemRemoved: "took {item} off the checklist",
  responsibleSet: "made {person} responsible",
  reminded: "reminded {person} of what is missing",
  queueChanged: "changed how {label} takes papers in",
} as const satisfies Record<Verb, string>;

/** A line as it is hashed: keys in a fixed order, so that the same line always gives the same text. */
export interface SealedLine {
  readonly id: number;
  readonly at: string;
  readonly who: string;
  readonly verb: string;
  readonly subject: string;
  readonly details: string;
}

/** The text that is hashed for a batch of lines: the hash before, then each line. Any changed, missing or added line changes it. */
export function sealText(hashBefore: string, lines: readonly SealedLine[]): string {
  return [hashBefore, ...lines.map((l) => JSON.stringify([l.id, l.at, l.who, l.verb, l.subject, l.details]))].join("\n");
}

/** Fills a line's words in. Missing details leave their place empty. */
export function lineWords(verb: Verb, details: Readonly<Record<string, string>>): string {
  return verbWords[verb]
    .replace(/\{(\w+)\}/g, (_, name: string) => details[name] ?? "")
    .replace(/\s+/g, " ")
    .trim();
}
