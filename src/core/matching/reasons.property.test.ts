import fc from "fast-check";
import { readPaper } from "../reading/read-paper.ts";
import { context, pageOf } from "../reading/test-page.ts";
import { referencesOf } from "../records/record-references.ts";
import { startingWeights } from "./match-weights.ts";
import { probePaper } from "./probe-paper.ts";
import type { MatchRecord } from "./match-types.ts";
import { senderOf, suggestRecords } from "./suggest-records.ts";

const label = fc.constantFrom("Invoice No.", "Your order", "Total", "Datum", "IBAN", "Bestellnummer", "Ref", "Net", "VAT 20 %", "Page", "");
const value = fc.oneof(
  fc.constantFrom(
    "PO-6127",
    "PO 6127",
    "P0-6l27",
    "18.11.2026",
    "5,835.00",
    "GB80 MRWK 0000 0000 4502 53",
    "Tarrin Marine Fuels",
    "a@tarrin-fuels.example",
  ),
  fc.string({ minLength: 1, maxLength: 12 }),
  fc.integer({ min: 0, max: 99_999 }).map(String),
);
const row = fc
  .tuple(fc.integer({ min: 10, max: 480 }), fc.integer({ min: 10, max: 800 }), label, value)
  .map(([x, y, l, v]) => [x, y, `${l} ${v}`.trim() || "x"] as const);
const record = (id: number, key: string, parentId: number | null): MatchRecord => ({
  id,
  company: "MF",
  type: parentId === null ? "supplierAccount" : "purchaseOrder",
  key,
  title: "Tarrin Marine Fuels",
  isStanding: parentId === null,
  status: null,
  date: null,
  amount: "5835.00",
  currency: "GBP",
  fields: { total: "5835.00", iban: "GB80MRWK00000000450253", email: "a@tarrin-fuels.example" },
  parentId,
  chainId: null,
});
const records = [record(1, "S-2004", null), record(2, "PO-6127", 1), record(3, "PO-6130", 1)];

/** Everything found on one page, whatever stands on it. */
function find(rows: readonly (readonly [number, number, string])[]) {
  const page = pageOf(rows, { fromPicture: true });
  const read = readPaper([page], context);
  const probes = probePaper([page], { fileName: "PO-6127.pdf", subject: null, sender: null });
  const known = new Set(probes.map((p) => `${p.kind} ${p.reference}`));
  const hits = records.flatMap((r) =>
    referencesOf(r)
      .filter((f) => known.has(`${f.kind} ${f.reference}`))
      .map((f) => ({ recordId: r.id, ...f })),
  );
  const suggested = suggestRecords(
    {
      probes,
      readings: read.readings,
      types: [],
      company: null,
      addressed: null,
      receivedOn: "2026-11-20",
      isSeveral: false,
      doubles: [],
      folded: "",
      saidId: null,
      codes: [],
    },
    records,
    hits,
    startingWeights,
  );
  return { page, read, suggested, probes, hits };
}

describe("Whatever stands on a page", () => {
  test("each reading and each reason points at words that are there (promise 8)", () => {
    let pointed = 0;
    fc.assert(
      fc.property(fc.array(row, { minLength: 1, maxLength: 25 }), (rows) => {
        const { page, read, suggested } = find(rows);
        const words = page.lines.flat().flatMap((p) => p.words);
        for (const at of [...read.readings, ...suggested.suggestions.flatMap((s) => s.reasons)]) {
          if (at.page === null || at.box === null) continue;
          pointed++;
          const [x, y, width, height] = at.box;
          const inBox = words.filter(
            (w) =>
              w.box[0] >= x - 0.1 &&
              w.box[1] >= y - 0.1 &&
              w.box[0] + w.box[2] <= x + width + 0.1 &&
              w.box[1] + w.box[3] <= y + height + 0.1,
          );
          for (const word of at.text.split(" "))
            expect(inBox.map((w) => w.text.replace(/[,;:.()]+$/, ""))).toContain(word.replace(/[,;:.()]+$/, ""));
        }
      }),
      { numRuns: 300 },
    );
    expect(pointed).toBeGreaterThan(300);
  });
  test("the same page gives the same answer", () =>
    fc.assert(
      fc.property(fc.array(row, { minLength: 1, maxLength: 20 }), (rows) => expect(find(rows)).toEqual(find(rows))),
      { numRuns: 60 },
    ));
  test("certainties are probabilities, and together with none they are no more than one", () =>
    fc.assert(
      fc.property(fc.array(row, { minLength: 1, maxLength: 20 }), (rows) => {
        const { read, suggested } = find(rows);
        for (const r of read.readings) expect(r.certainty > 0 && r.certainty <= 1).toBe(true);
        const sum = suggested.suggestions.reduce((s, x) => s + x.certainty, suggested.none);
        expect(sum).toBeLessThanOrEqual(1.01);
      }),
      { numRuns: 150 },
    ));
});

test("whose document it is can be told before anything else of it, and is the same", () => {
  let told = 0;
  fc.assert(
    fc.property(fc.array(row, { maxLength: 14 }), (rows) => {
      const { probes, hits, suggested } = find(rows);
      const sender = senderOf({ probes }, records, hits, startingWeights);
      expect(sender).toBe(suggested.senderId);
      if (sender !== null) told++;
    }),
  );
  expect(told).toBeGreaterThan(0);
});
