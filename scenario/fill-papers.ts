import { mkdir, writeFile } from "node:fs/promises";
import path from "node:path";
import { Readable } from "node:stream";
import { config } from "#server/settings/config.ts";
import { sql } from "drizzle-orm";
import { parseDocumentCode, parseSha256 } from "#core/shared/brand.ts";
import { finishAnalysed } from "#server/arrivals/finish-reading.ts";
import { landFile, takeIn } from "#server/arrivals/receive.ts";
import { checkDocument } from "#server/automatic-filing/check-document.ts";
import { refreshAllMarked } from "#server/checklists/refresh-completeness.ts";
import { learnFromFiling } from "#server/matching/learn-from-filing.ts";
import { readArrival } from "#server/arrivals/read-arrival.ts";
import { printSheets } from "#server/codes/print-sheets.ts";
import { db } from "#server/db/connect.ts";
import { fileAway } from "#server/documents/file-away.ts";
import { placeDocument } from "#server/filing-plan/place-document.ts";
import type { Actor } from "#server/people/load-actor.ts";
import { addJob } from "#server/jobs/add-job.ts";
import { analyseOrSkip } from "#server/reading/analyse-pages.ts";
import { atTime } from "#server/ports/clock.ts";
import { indexDocument } from "#server/search/index-document.ts";
import { pileOfPapers, quayStack, supplierBundle } from "./papers/bundles.ts";
import { saveOurNumbers } from "#server/matching/load-ourselves.ts";
import { ourselves } from "./papers/compose.ts";
import { saveQueueFolder, saveQueueIntake } from "#server/ways-in/queue-ways.ts";
import { type FiledPaper, filedPapers } from "./papers/filed-papers.ts";
import { type WaitingPaper, waitingPapers } from "./papers/waiting-papers.ts";
import { responsible } from "./set-up/checklists.ts";
import { actorByMail } from "./set-up/fill-set-up.ts";
import type { World } from "./world.ts";

/** Documents in work side by side: their readers are processes of their own. */
const AT_ONCE = 4;

/** The demo's documents, each drawn once. */
export interface DemoPapers {
  readonly filed: readonly FiledPaper[];
  readonly waiting: readonly WaitingPaper[];
  /** Draws documents while other things go on that leave a core to spare, scans and photographs first, which take longest. Answers what ends it. */
  beginDrawing(): () => void;
}

/**
 * The documents of the world in the order of their arrival: filed ones by their day, waiting ones oldest first, so that numbers rise with the time.
 * @param every Only every nth of the filed ones, for a world that is made quickly.
 */
export function demoPapers(world: World, every = 1): DemoPapers {
  const drawn = new Map<string, Promise<Uint8Array>>();
  const once =
    (name: string, make: () => Promise<Uint8Array>): (() => Promise<Uint8Array>) =>
    () => {
      const known = drawn.get(name) ?? make();
      drawn.set(name, known);
      return known;
    };
  const filed = [...filedPapers(world)]
    .sort((a, b) => (a.day < b.day ? -1 : a.day > b.day ? 1 : 0))
    .filter((_, i) => i % every === 0)
    .map((p, i) => ({ ...p, make: once(`filed ${i}`, p.make) }));
  const waiting = [...waitingPapers(world)]
    .sort((a, b) => (a.at < b.at ? -1 : 1))
    .map((p, i) => ({ ...p, make: once(`waiting ${i}`, p.make) }));
  const isPicture = (p: { readonly fileName: string }): boolean => /^(scan|IMG)|\.(tif|jpe?g)$/i.test(p.fileName);
  return {
    filed,
    waiting,
    beginDrawing() {
      let isOver = false;
      const draw = async (): Promise<void> => {
        for (const paper of [...waiting.filter(isPicture), ...filed.filter(isPicture), ...filed, ...waiting]) {
          if (isOver) break;
          await paper.make();
        }
      };
      // Whoever takes the document in meets what went wrong.
      draw().catch(() => {});
      return () => void (isOver = true);
    },
  };
}

/** Puts the demo's documents through the real services: taken in, read, filed, placed and indexed as a person and the worker would. */
export async function fillPapers(world: World, papers: DemoPapers, say: (line: string) => void): Promise<void> {
  const actors = new Map<string, Actor>();
  const actor = async (email: string): Promise<Actor> => {
    const known = actors.get(email) ?? (await actorByMail(email));
    actors.set(email, known);
    return known;
  };
  const { filed, waiting } = papers;
  let done = 0;
  await sideBySide(
    filed.map((paper, i) => async () => {
      const bytes = await paper.make();
      const who = await actor(paper.by);
      const minute = new Date(Date.parse(`${paper.day}T08:30:00Z`) + (i % 400) * 60_000);
      await atTime(
        () => minute,
        async () => {
          const id = await take(who, paper.fileName, bytes, {
            queue: paper.queue,
            source: paper.source,
            company: paper.clips[0]?.company,
            sender: paper.sender,
            // What the program would have done with these is the history that automatic filing is measured by.
            suggests: paper.documentType === "supplierInvoice",
            draws: false,
          });
          const filing = await fileAway(who, id, {
            documentType: paper.documentType,
            clips: paper.clips.map((r) => ({ company: r.company, type: r.type, key: r.key })),
            properties: { ...prefilled(paper), ...paper.properties },
          });
          if (!filing.ok) throw new Error(`${paper.fileName}: ${JSON.stringify(filing.refusal)}`);
          const documentId = Number(parseDocumentCode(filing.value.code)?.slice(3));
          await placeDocument(documentId);
          await indexDocument(documentId);
          await learnFromFiling(documentId);
          if (paper.documentType === "supplierInvoice") await checkDocument(documentId);
        },
      );
      done++;
      if (done % 100 === 0) say(`  ${done} of ${filed.length} documents filed`);
    }),
  );
  const clerk = await actor("isla.rowe@merrowick.example");
  const bundles = await makeBundles(world, clerk);
  await sideBySide([
    ...waiting.map((paper) => async () => {
      const bytes = await paper.make();
      await atTime(
        () => new Date(paper.at),
        async () => {
          const id = await take(clerk, paper.fileName, bytes, {
            queue: paper.queue,
            source: paper.source,
            company: paper.company ?? undefined,
            sender: paper.sender,
          });
          const children = await db().execute<{ id: string }>(sql`select id from arrival where parent_id = ${id} and state = 'waiting'`);
          for (const child of children.rows) await readArrival(child.id);
          await lookAtWaiting(id);
        },
      );
    }),
    ...bundles,
  ]);
  await fillChecklists();
  say(`  ${filed.length} documents filed, ${waiting.length} waiting`);
}

/** Of what is filed only pages without words of their own are looked at, by the worker, once it runs. */
export async function queueLooks(): Promise<void> {
  await db().execute(sql`update content_page set ink = -1 where ink is null and words_from is not null`);
  await db().execute(
    sql`update content c set looked = 'yes' where looked = 'no' and kind not in ('docx', 'office') and not exists (select 1 from content_page p where p.sha256 = c.sha256 and p.ink is null)`,
  );
  const unseen = await db().execute<{ sha256: string }>(sql`select sha256 from content where looked = 'no' order by sha256`);
  for (const { sha256 } of unseen.rows) await addJob(db(), "analysePages", { sha256 }, { key: `look:${sha256}`, priority: 5 });
}

/** Who answers for what, and what was accepted so far; the newest documents wait to be looked at. */
async function fillChecklists(): Promise<void> {
  for (const { type, company, email } of responsible)
    await db().execute(
      sql`update record set responsible_id = (select id from "user" where email = ${email}) where type = ${type} and company = ${company}`,
    );
  await refreshAllMarked();
  const decisions = [
    ["crewMember", "medical", "medicalCertificate", "maren.holt@merrowick.example", 2],
    ["bankReconciliation", "sheet", "reconciliationSheet", "bram.ellery@merrowick.example", 1],
  ] as const;
  for (const [type, item, documentType, email, waiting] of decisions)
    await db().execute(sql`insert into item_decision (record_id, item, kind, document_id, at, by)
      select c.record_id, ${item}, 'accepted', c.document_id, d.filed_at + interval '1 hour', (select id from "user" where email = ${email})
      from clip c join record r on r.id = c.record_id and r.type = ${type} join document d on d.id = c.document_id and d.document_type = ${documentType}
      order by d.id desc offset ${waiting}`);
  await refreshAllMarked();
}

async function take(
  who: Actor,
  fileName: string,
  bytes: Uint8Array,
  about: { queue: string; source: string; company: string | undefined; sender: string | null; suggests?: boolean; draws?: boolean },
) {
  const landed = await landFile(Readable.from([Buffer.from(bytes)]));
  if (!landed.ok) throw new Error(`${fileName} could not be kept`);
  const taken = await takeIn(who, landed.value, {
    fileName,
    queue: about.queue,
    source: about.source,
    company: about.company,
    sender: about.sender ?? undefined,
  });
  if (!taken.ok) throw new Error(`${fileName}: ${taken.refusal.code}`);
  await readArrival(taken.value.id, { suggests: about.suggests ?? true, draws: about.draws ?? true });
  return taken.value.id;
}

/** Looks at the pages of an arrival and of its parts, as the worker would. */
async function lookAtWaiting(id: string): Promise<void> {
  const hashes = await db().execute<{ sha256: string }>(
    sql`select distinct sha256 from arrival where (id = ${id} or parent_id = ${id}) and state = 'reading'`,
  );
  for (const { sha256 } of hashes.rows) {
    await analyseOrSkip(parseSha256(sha256));
    await finishAnalysed(parseSha256(sha256));
  }
}

/** Documents of several documents in one file: a week's bundle from upstairs, and a stack from the scanner with its cover sheets. What takes each in. */
async function makeBundles(world: World, clerk: Actor): Promise<readonly (() => Promise<void>)[]> {
  const bookings = world
    .of("MF", "freightBooking")
    .filter((b) => (b.fields["sailingDate"] ?? "") >= "2026-11-10")
    .slice(14, 17);
  const covered = [];
  for (const record of bookings) {
    const cover = await printSheets(clerk, {
      kind: "coverSheet",
      items: [{ company: record.company, type: record.type, key: record.key, documentType: "packingList" }],
      count: 1,
      used: 0,
    });
    if (!cover.ok) throw new Error(`no cover sheet for ${record.key}`);
    covered.push({ record, cover: cover.value });
  }
  // The quay's scanner puts its batches into a folder, and what its sheets say is done.
  const admin = await actorByMail("isla.rowe@merrowick.example");
  await saveQueueFolder(admin, "quay-office", { after: "done" });
  await saveOurNumbers(admin, { MF: [ourselves.MF.vatNumber], QS: [ourselves.QS.vatNumber] });
  await saveQueueIntake(admin, "quay-office", { filesByCodes: true, leavesOutBlanks: true, limits: {} });
  // What lies beside the stand-in scanner.
  const pile = path.join(config().dataFolder, "standins", "scanner", "pile");
  await mkdir(pile, { recursive: true });
  for (const [name, bytes] of await pileOfPapers(world, covered)) await writeFile(path.join(pile, `${name}.pdf`), bytes);
  const bundles = [
    {
      at: "2026-11-20T09:58:00Z",
      fileName: "Week 46 supplier documents.pdf",
      bytes: await supplierBundle(world),
      queue: "payables",
      source: "folder",
    },
    {
      at: "2026-11-20T09:51:00Z",
      fileName: "scan-0071.pdf",
      bytes: await quayStack(world, covered),
      queue: "sales-desk",
      source: "scanner",
    },
  ];
  return bundles.map(
    (b) => () =>
      atTime(
        () => new Date(b.at),
        async () =>
          lookAtWaiting(await take(clerk, b.fileName, b.bytes, { queue: b.queue, source: b.source, company: "MF", sender: null })),
      ),
  );
}

/** Properties as the sheet would fill them from the records. */
function prefilled(paper: {
  readonly documentType: string;
  readonly clips: readonly { readonly type: string; readonly key: string; readonly fields: Readonly<Record<string, string>> }[];
}): Record<string, string> {
  const wanted: Readonly<Record<string, readonly string[]>> = {
    supplierInvoice: ["documentNumber", "documentDate", "dueDate", "net", "total", "currency"],
    salesInvoice: ["documentNumber", "documentDate", "dueDate", "orderNumber", "net", "total", "currency"],
    purchaseOrder: ["total", "currency"],
    loadingList: ["sailingDate", "vessel"],
    bookingRequest: ["yourReference", "sailingDate"],
    bookingConfirmation: ["sailingDate", "vessel"],
    packingList: ["yourReference"],
    claimForm: ["total", "currency"],
  };
  const values: Record<string, string> = {};
  for (const key of wanted[paper.documentType] ?? []) {
    const value = paper.clips.map((r) => r.fields[key]).find((v) => v !== undefined && v !== "");
    if (value !== undefined) values[key] = value;
  }
  const order = paper.clips.find((r) => r.type === "purchaseOrder");
  if (order && paper.documentType === "supplierInvoice") values["orderNumber"] = order.key;
  return values;
}

async function sideBySide(works: readonly (() => Promise<void>)[]): Promise<void> {
  let next = 0;
  await Promise.all(
    Array.from({ length: AT_ONCE }, async () => {
      for (let i = next++; i < works.length; i = next++) await works[i]?.();
    }),
  );
}
