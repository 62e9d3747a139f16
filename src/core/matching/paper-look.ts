import { type EInvoice, readingsOfEInvoice, rowsOfEInvoice, withStructured } from "../reading/e-invoice.ts";
import { type Heading, headingsOn } from "../reading/judge-type.ts";
import type { SeenPlace } from "../reading/learn-layout.ts";
import { type ReadPage } from "../reading/page-lines.ts";
import type { Ourselves } from "../reading/paper-context.ts";
import { readPaper } from "../reading/read-paper.ts";
import { type PaperRows, readRows } from "../reading/read-rows.ts";
import type { PaperReadings } from "../reading/reading.ts";
import { nameOf } from "../records/record-references.ts";
import { foldText } from "../shared/fold-text.ts";
import type { MatchPaper } from "./match-types.ts";
import { type Probe, probePaper } from "./probe-paper.ts";

/** A document as looking at it takes it. */
export interface PaperToLookAt {
  readonly pages: readonly ReadPage[];
  readonly fileName: string;
  readonly subject: string | null;
  readonly sender: string | null;
  /** Day it came in, YYYY-MM-DD. */
  readonly receivedOn: string;
  /** What it says itself, when it is or carries an e-invoice. */
  readonly invoice: EInvoice | null;
}

/** Our companies as documents name them. */
export type OurCompanies = readonly (Ourselves[number] & { readonly company: string })[];

/**
 * All that a document says by itself, whatever records there are and whatever was learnt: finding needs its pages no more once it has this. It is plain data,
 * so that it can be kept while the document waits.
 */
export interface PaperLook {
  /** By what records may be named; what names ourselves is left out. */
  readonly probes: readonly Probe[];
  /** Its fields as they are read without knowing its sender's layouts. */
  readonly plain: PaperReadings;
  readonly headings: readonly Heading[];
  readonly rows: PaperRows;
  /** The company of ours that its first page names, if it is one only. */
  readonly addressed: MatchPaper["addressed"];
  /** Whether our own name stands at its head as its sender's does; null when it does not stand there. */
  readonly isByUs: boolean | null;
  /** Pages that were turned for reading. */
  readonly turned: readonly Pick<ReadPage, "number" | "turned" | "width" | "height">[];
}

/** Looks at a document. Pure: the same document and companies give the same. */
export function lookAtPaper(paper: PaperToLookAt, ourselves: OurCompanies): PaperLook {
  const { pages, invoice } = paper;
  return {
    plain: readFields(paper, ourselves, []),
    probes: probePaper(pages, paper).filter((p) => !isOurs(p, ourselves)),
    headings: headingsOn(pages),
    rows: invoice ? rowsOfEInvoice(invoice) : readRows(pages),
    addressed: addressedTo(pages, ourselves),
    isByUs: sentByUs(pages, ourselves),
    turned: pages.filter((p) => p.turned !== null).map(({ number, turned, width, height }) => ({ number, turned, width, height })),
  };
}

/** Its fields, with what was learnt of its sender's layouts; what an e-invoice says itself goes before what was read off its pages. */
export function readFields(paper: PaperToLookAt, ourselves: OurCompanies, seen: readonly SeenPlace[]): PaperReadings {
  const { pages, receivedOn, fileName, invoice } = paper;
  const read = readPaper(pages, { receivedOn, ourselves, fileName, seen });
  if (!invoice) return read;
  // Where there are no pages beside it, what would be read off is only our own rendering of it.
  const page = pages.some((p) => p.isDrawn) ? read : { ...read, readings: read.readings.filter((r) => r.field === "language"), doubts: [] };
  const { readings, differing } = withStructured(page.readings, readingsOfEInvoice(invoice));
  return {
    ...page,
    readings,
    doubts: [...page.doubts, ...differing.map((d) => ({ code: "structured-differs" as const, fields: [d.field], detail: d.detail }))],
  };
}

const ourNames = new WeakMap<OurCompanies, ReadonlySet<string>>();

/** What names ourselves says nothing of the sender. */
function isOurs(probe: Probe, ourselves: OurCompanies): boolean {
  const ours =
    ourNames.get(ourselves) ??
    new Set(
      ourselves.flatMap((o) => [
        ...o.ibans.map((i) => `iban ${i.toLowerCase()}`),
        ...o.vatNumbers.map((v) => `vatNumber ${v.toLowerCase()}`),
        `name ${nameOf(o.name)}`,
      ]),
    );
  ourNames.set(ourselves, ours);
  return ours.has(`${probe.kind} ${probe.reference}`);
}

function addressedTo(pages: readonly ReadPage[], ourselves: OurCompanies): MatchPaper["addressed"] {
  const first = pages[0];
  if (!first) return null;
  const phrases = first.lines.flat().map((phrase) => ({ phrase, folded: foldText(phrase.text) }));
  const named = ourselves.flatMap((o) => {
    const name = foldText(o.name).replace(/\s(ltd|limited|gmbh|plc)\.?$/, "");
    const phrase = phrases.find((p) => p.folded.includes(name))?.phrase;
    return phrase
      ? [
          {
            company: o.company,
            place: {
              text: phrase.text,
              page: first.isShown ? 1 : null,
              box: first.isShown ? phrase.box : null,
              where: "page" as const,
              label: null,
              depth: phrase.box[1] / first.height,
            },
          },
        ]
      : [];
  });
  const [one, other] = named;
  return one && !other ? one : null;
}

/** Whether our own name stands at the head of the document: first, and larger than the rest. */
function sentByUs(pages: readonly ReadPage[], ourselves: OurCompanies): boolean | null {
  const first = pages[0];
  if (!first?.isDrawn) return null;
  const head = first.lines.flat().filter((p) => p.box[1] < first.height * 0.22);
  const names = new Set(ourselves.map((o) => foldText(o.name)));
  const ours = head.find((p) => names.has(foldText(p.text)));
  if (!ours) return null;
  return ours.box[3] > first.letter * 1.25 ? true : null;
}
