import { ownDomain, shapeOf } from "../reading/identifiers.ts";
import type { Label } from "../reading/label-of.ts";
import { labelsOf, noneKnown } from "../reading/label-of.ts";
import { type Box, boxAround, type ReadPage } from "../reading/page-lines.ts";
import { habitsOf, type Spot, spotValues } from "../reading/spot-values.ts";
import { nameOf, namePart, type ReferenceKind } from "../records/record-references.ts";
import { foldReference, foldText } from "../shared/fold-text.ts";

/** Where on a document something that names a record stands. */
export interface Place {
  readonly text: string;
  readonly page: number | null;
  readonly box: Box | null;
  /** On a page, in the file's name, the mail's subject, its sender, or a barcode. */
  readonly where: "page" | "fileName" | "subject" | "sender" | "code";
  /** What its label says it is: an order, its own number, somebody's reference; null without one. */
  readonly label: "order" | "number" | "reference" | "customer" | null;
  /** How near the top of the first page, 0 (there) to 1. */
  readonly depth: number;
}

/** Something on a document that a record may be known by. */
export interface Probe {
  readonly kind: ReferenceKind;
  readonly reference: string;
  readonly places: readonly Place[];
}

/** What is known of a document beside its pages. */
export interface PaperNames {
  readonly fileName: string;
  readonly subject: string | null;
  /** Name and address of whoever sent it. */
  readonly sender: string | null;
}

/** References and names taken of one document: a list of thousands of articles names no record. */
const REFERENCES_MAX = 400;
const NAMES_MAX = 1200;
const PLACES_MAX = 4;

/** Everything on a document by which records may be named, each once with where it stands. Pure; linear in its words. */
export function probePaper(pages: readonly ReadPage[], names: PaperNames): readonly Probe[] {
  const probes = new Map<string, { kind: ReferenceKind; reference: string; places: Place[] }>();
  let references = 0;
  let namesTaken = 0;
  const put = (kind: ReferenceKind, reference: string, place: Place): void => {
    if (reference.length < 3 || reference.length > 120) return;
    const key = `${kind} ${reference}`;
    const known = probes.get(key);
    if (known) {
      if (known.places.length < PLACES_MAX) known.places.push(place);
      return;
    }
    if (kind === "name" ? ++namesTaken > NAMES_MAX : ++references > REFERENCES_MAX * 6) return;
    probes.set(key, { kind, reference, places: [place] });
  };
  const reference = (text: string, place: Place): void => {
    const folded = foldReference(text);
    if (!/\d/.test(folded) && !/[oil]/.test(folded)) return;
    put("key", folded, place);
    const bare = folded.replace(/^0+/, "");
    if (bare !== folded) put("key", bare, place);
    if (folded.length >= 4) put("shape", shapeOf(folded), place);
    if (place.label === "order" || place.label === "customer") {
      const digits = folded.replace(/^[a-z]+0*/, "").replace(/^0+/, "");
      if (/^\d{4,}$/.test(digits)) put("digits", digits, place);
    }
    for (const kind of ["number", "yourReference", "order", "batch"] as const) put(kind, folded, place);
  };
  const habits = habitsOf(pages);
  for (const page of pages) {
    for (const spot of spotValues(page, habits)) {
      const value = spot.values[0] ?? "";
      const place = placeOf(page, spot, spot.kind === "reference" ? labelsOf(page, spot, noneKnown) : []);
      if (spot.kind === "reference") reference(value, place);
      else if (spot.kind === "iban" || spot.kind === "vatNumber") put(spot.kind, foldReference(value), place);
      else if (spot.kind === "mail") {
        put("mail", foldText(value), place);
        const domain = ownDomain(value);
        if (domain !== null) put("domain", domain, place);
      }
    }
    if (page.number <= 2 || page.number === pages.at(-1)?.number) namesOn(page, put);
  }
  const outside = (where: Place["where"], text: string): Place => ({ text, page: null, box: null, where, label: null, depth: 0 });
  for (const piece of pieces(names.fileName.replace(/\.[a-z0-9]{2,5}$/i, ""))) reference(piece, outside("fileName", piece));
  for (const piece of pieces(names.subject ?? "")) reference(piece, outside("subject", piece));
  if (names.sender !== null) {
    const address = /([^\s<>"]+@[^\s<>"]+)/.exec(names.sender)?.[1] ?? null;
    if (address !== null) {
      put("mail", foldText(address), outside("sender", address));
      const domain = ownDomain(address);
      if (domain !== null) put("domain", domain, outside("sender", address));
    }
    const name = names.sender.replace(/<[^>]*>/, "").trim();
    if (name !== "" && !name.includes("@")) put("name", nameOf(name), outside("sender", name));
  }
  return [...probes.values()];
}

function placeOf(page: ReadPage, spot: Spot, labels: readonly Label[]): Place {
  const meanings = labels.flatMap((l) => l.meanings.map((m) => m.meaning));
  const label = meanings.includes("orderReference")
    ? "order"
    : meanings.includes("customerNumber")
      ? "customer"
      : meanings.includes("yourReference")
        ? "reference"
        : meanings.includes("documentNumber")
          ? "number"
          : null;
  return {
    text: spot.text,
    page: page.isShown ? page.number : null,
    box: page.isShown ? spot.box : null,
    where: "page",
    label,
    depth: page.number === 1 ? Math.min(1, spot.box[1] / page.height) : 1,
  };
}

/** Pieces of a file's name or a subject that may be references: with and without what they are joined by. */
function pieces(text: string): readonly string[] {
  const words = text
    .slice(0, 300)
    .split(/[\s,;()[\]{}"'<>|_]+/u)
    .filter((w) => w !== "");
  const found = new Set<string>();
  words.forEach((word, i) => {
    if (/\d/.test(word)) found.add(word);
    const next = words[i + 1];
    if (next !== undefined && /^[A-Za-z]{1,4}[-/]?$/.test(word) && /^\d/.test(next)) found.add(`${word}${next}`);
    for (const part of word.split(/[-–]/)) if (/\d/.test(part) && part.length >= 4) found.add(part);
  });
  return [...found];
}

/** Windows of one to six words of each phrase, as names are compared. */
function namesOn(page: ReadPage, put: (kind: ReferenceKind, reference: string, place: Place) => void): void {
  for (const phrase of page.lines.flat()) {
    const words = phrase.words;
    if (words.length > 40) continue;
    const parts = words.map((w) => namePart(w.text));
    for (let from = 0; from < words.length; from++) {
      // A name begins with a letter, and one word alone is a name only when it is long.
      if (!/^\p{L}/u.test(words[from]?.text ?? "")) continue;
      let name = "";
      for (let count = 1; count <= 6 && from + count <= words.length; count++) {
        name += parts[from + count - 1] ?? "";
        if (name.length < 5 || (count > 1 && parts[from + count - 1] === "")) continue;
        const run = words.slice(from, from + count);
        put("name", name, {
          text: run
            .map((w) => w.text)
            .join(" ")
            .replace(/[,;:.()]+$/, ""),
          page: page.isShown ? page.number : null,
          box: page.isShown ? boxAround(run.map((w) => w.box)) : null,
          where: "page",
          label: null,
          depth: page.number === 1 ? Math.min(1, phrase.box[1] / page.height) : 1,
        });
      }
    }
  }
}
