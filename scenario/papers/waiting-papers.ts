import { amountOf, chance, dayAfter } from "../random.ts";
import { iban, type Line, netOf, withTax, type World, type WorldRecord } from "../world.ts";
import * as compose from "./compose.ts";
import { drawPdf } from "./draw-pdf.ts";
import { photograph, scanPages, scanPdf, scanTiff } from "./draw-scan.ts";
import { layoutOf } from "./filed-papers.ts";
import type { Paper } from "./paper.ts";
import { type EInvoice, writeCii, writeCsv, writeDocx, writeMail, writeUbl, writeXlsx } from "./write-files.ts";
import { PDFDocument } from "@cantoo/pdf-lib";

/** What is right for a waiting document; for judging, never read by the program. */
export interface Truth {
  readonly company: string;
  readonly documentType: string;
  readonly clips: readonly string[];
  readonly documentNumber?: string;
  readonly documentDate?: string;
  readonly total?: string;
  readonly currency?: string;
  /** What is wrong with it on purpose. */
  readonly trouble?: string;
}
/** A document that waits in Arrivals when the demo begins. */
export interface WaitingPaper {
  readonly fileName: string;
  readonly make: () => Promise<Uint8Array>;
  readonly queue: string;
  readonly source: string;
  readonly sender: string | null;
  readonly company: string | null;
  /** When it came in. */
  readonly at: string;
  readonly truth: Truth;
}

/** The sixty documents that wait, with what is right for each. */
export function waitingPapers(world: World): readonly WaitingPaper[] {
  const c = chance(4711);
  const papers: WaitingPaper[] = [];
  let minutes = 0;
  const at = (): string => {
    minutes += c.whole(7, 34);
    return new Date(Date.parse("2026-11-20T09:42:00Z") - minutes * 60_000).toISOString();
  };
  const add = (p: Omit<WaitingPaper, "at" | "company"> & { company?: string | null }): void =>
    void papers.push({ company: p.truth.company, ...p, at: at() } as WaitingPaper);
  const from = (r: WorldRecord | null): string | null => (r ? `${r.title} <${r.fields["email"] ?? ""}>` : null);
  const orders = world
    .of("MF", "purchaseOrder")
    .slice(0, 45)
    .filter((o) => o.status === "received" && (o.fields["deliveryDate"] ?? "") <= world.today);
  const order = (n: number): WorldRecord => {
    const found = orders[n];
    if (!found) throw new Error(`only ${orders.length} orders wait for their invoice`);
    return found;
  };
  const invoiceNumber = (n: number): string =>
    n === 0 ? "77-3108" : ([`77-31${10 + n}`, `INV209${10 + n}`, `2026/18${10 + n}`, `R-9${10 + n}-26`][n % 4] ?? "");
  const dated = (n: number): string => (n === 0 ? "2026-11-18" : dayAfter(world.today, -(n % 5)));
  const invoiceTruth = (o: WorldRecord, n: number, trouble?: string): Truth => ({
    company: o.company,
    documentType: "supplierInvoice",
    clips: [`purchaseOrder:${o.key}`],
    documentNumber: invoiceNumber(n),
    documentDate: dated(n),
    total: o.fields["total"] ?? "",
    currency: o.currency ?? "GBP",
    ...(trouble ? { trouble } : {}),
  });
  const invoice = (n: number, over: Partial<Paper> = {}): Promise<Uint8Array> =>
    drawPdf(compose.supplierInvoice(world, order(n), invoiceNumber(n), dated(n), over), layoutOf(compose.accountOf(world, order(n))));
  const supplierOf = (n: number): WorldRecord | null => compose.accountOf(world, order(n));
  const tooling = { queue: "payables", source: "mail" } as const;

  // Clean invoices, each in its sender's own layout.
  for (let n = 0; n < 14; n++)
    add({
      ...tooling,
      fileName:
        n === 0 ? "Invoice 77-3108.pdf" : `${["invoice", "Rechnung", "inv", "doc"][n % 4]}-${invoiceNumber(n).replace(/\W/g, "")}.pdf`,
      make: () => invoice(n, n === DEARER ? dearer(order(n)) : {}),
      sender: from(supplierOf(n)),
      truth:
        n === DEARER
          ? { ...invoiceTruth(order(n), n, "one line is dearer than ordered"), total: dearer(order(n)).money.total }
          : invoiceTruth(order(n), n),
    });
  // Scanned ones: as PDF, as TIFF with two pages, as a photograph with a turned EXIF mark.
  for (let n = 14; n < 18; n++)
    add({
      queue: "payables",
      source: "scanner",
      fileName: `scan-00${30 + n}.pdf`,
      make: async () => scanPdf(await scanPages(await invoice(n), chance(n), 1), dated(n)),
      sender: null,
      truth: invoiceTruth(order(n), n),
    });
  for (let n = 18; n < 20; n++)
    add({
      queue: "payables",
      source: "scanner",
      fileName: `scan-00${30 + n}.tif`,
      make: async () => {
        const page = await scanPages(await invoice(n), chance(n), 1);
        const note = await scanPages(
          await drawPdf(compose.deliveryNote(world, order(n), `DN${n}81`), layoutOf(supplierOf(n))),
          chance(n + 90),
          1,
        );
        return scanTiff([...page, ...note]);
      },
      sender: null,
      truth: invoiceTruth(order(n), n, "two papers in one file: invoice and delivery note"),
    });
  for (let n = 20; n < 22; n++)
    add({
      queue: "payables",
      source: "phone",
      fileName: `IMG_22${31 + n}.jpg`,
      make: async () => photograph((await scanPages(await invoice(n), chance(n), 1))[0] ?? Buffer.alloc(0), chance(n)),
      sender: null,
      truth: invoiceTruth(order(n), n),
    });
  // E-invoices, and mails with their attachments.
  const structured = (n: number): EInvoice => {
    const o = order(n);
    const s = supplierOf(n);
    return {
      number: invoiceNumber(n),
      date: dated(n),
      dueDate: dayAfter(dated(n), 30),
      order: o.key,
      seller: { name: s?.title ?? "", vatNumber: s?.fields["vatNumber"] ?? "", iban: s?.fields["iban"] ?? "" },
      buyer: compose.ourselves.MF.name,
      lines: o.lines ?? [],
      money: { net: o.fields["net"] ?? "", tax: o.fields["tax"] ?? "", total: o.fields["total"] ?? "", currency: o.currency ?? "GBP" },
    };
  };
  add({
    ...tooling,
    fileName: `${invoiceNumber(22).replace(/\W/g, "")}-ubl.xml`,
    make: async () => writeUbl(structured(22)),
    sender: from(supplierOf(22)),
    truth: invoiceTruth(order(22), 22),
  });
  add({
    ...tooling,
    fileName: `${invoiceNumber(23).replace(/\W/g, "")}-cii.xml`,
    make: async () => writeCii(structured(23)),
    sender: from(supplierOf(23)),
    truth: invoiceTruth(order(23), 23),
  });
  for (let n = 24; n < 27; n++)
    add({
      ...tooling,
      fileName: `Your order ${order(n).key}.eml`,
      make: async () =>
        writeMail({
          from: from(supplierOf(n)) ?? "",
          to: "payables@merrowick-ferries.example",
          subject: `Invoice ${invoiceNumber(n)} for your order ${order(n).key}`,
          date: `${dated(n)}T08:12:00Z`,
          text: `Good morning\n\nplease find our invoice ${invoiceNumber(n)} attached.\n\nKind regards\n${supplierOf(n)?.title ?? ""}`,
          attachments: [{ name: `${invoiceNumber(n).replace(/\W/g, "")}.pdf`, type: "application/pdf", bytes: await invoice(n) }],
        }),
      sender: from(supplierOf(n)),
      truth: { ...invoiceTruth(order(n), n), documentType: "mail" },
    });
  // Trouble on purpose.
  add({
    ...tooling,
    fileName: "Rechnung ohne Bestellung.pdf",
    make: () => invoice(27, { references: [["Vessel", order(27).fields["vessel"] ?? ""]] }),
    sender: from(supplierOf(27)),
    truth: invoiceTruth(order(27), 27, "no order number on it"),
  });
  add({
    ...tooling,
    fileName: "inv misspelt.pdf",
    make: () =>
      invoice(28, {
        references: [
          [
            "Your order",
            order(28)
              .key.replace("PO-", "P0 ")
              .replace(/(\d)(\d)$/, "$2$1"),
          ],
        ],
      }),
    sender: from(supplierOf(28)),
    truth: invoiceTruth(order(28), 28, "order number misspelt"),
  });
  add({
    ...tooling,
    fileName: "invoice changed bank.pdf",
    make: () => invoice(29, { sender: { ...compose.supplierInvoice(world, order(29), "", dated(29)).sender, iban: iban(999_331) } }),
    sender: from(supplierOf(29)),
    truth: invoiceTruth(order(29), 29, "another IBAN than the account's"),
  });
  const quay = world.of("QS", "purchaseOrder").find((o) => o.status === "received" && o.key > "PO-9090") ?? order(0);
  add({
    ...tooling,
    company: "MF",
    fileName: "for the quay.pdf",
    make: () => drawPdf(compose.supplierInvoice(world, quay, "Q-88121", dated(3)), layoutOf(compose.accountOf(world, quay))),
    sender: from(compose.accountOf(world, quay)),
    truth: {
      company: "QS",
      documentType: "supplierInvoice",
      clips: [`purchaseOrder:${quay.key}`],
      documentNumber: "Q-88121",
      documentDate: dated(3),
      total: quay.fields["total"] ?? "",
      currency: quay.currency ?? "GBP",
      trouble: "for the other company",
    },
  });
  add({
    ...tooling,
    fileName: "Invoice 77-3108 (copy).pdf",
    make: () => invoice(0),
    sender: from(supplierOf(0)),
    truth: invoiceTruth(order(0), 0, "a duplicate of Invoice 77-3108.pdf"),
  });
  add({
    ...tooling,
    fileName: "confidential statement.pdf",
    make: async () => lock(await invoice(30)),
    sender: from(supplierOf(30)),
    truth: invoiceTruth(order(30), 30, "locked with a password"),
  });
  add({
    ...tooling,
    fileName: "cut off in transit.pdf",
    make: async () => (await invoice(31)).slice(0, 900),
    sender: from(supplierOf(31)),
    truth: invoiceTruth(order(31), 31, "cut off"),
  });
  const near = world.get("MF", "supplierAccount", "S-2010");
  // What we have of them, and two that never came.
  const stated = [
    ...world
      .of("MF", "supplierInvoice")
      .filter((i) => i.parent?.key === near.key && (i.fields["documentDate"] ?? "") <= "2026-10-31")
      .slice(0, 3)
      .map((i) => [i.fields["documentNumber"] ?? "", i.fields["documentDate"] ?? "", i.fields["total"] ?? ""] as const),
    ["BH-301", "2026-10-04", "214.40"] as const,
    ["BH-318", "2026-10-19", "96.12"] as const,
  ];
  add({
    ...tooling,
    fileName: "Statement October.pdf",
    make: () => drawPdf(compose.statement(near, "MF", stated, "2026-10-31"), layoutOf(near)),
    sender: "Brae & Holm <office@brae-holm.example>",
    truth: {
      company: "MF",
      documentType: "supplierStatement",
      clips: ["supplierAccount:S-2010"],
      documentDate: "2026-10-31",
      total: amountOf(stated.reduce((sum, [, , amount]) => sum + Math.round(Number(amount) * 100), 0)),
      currency: near.fields["currency"] ?? "GBP",
      trouble: "two accounts of nearly the same name; two of its invoices never came",
    },
  });
  const timber = world.get("MF", "customerAccount", "C-1288");
  add({
    queue: "sales-desk",
    source: "mail",
    fileName: "Halven timber rates.pdf",
    make: () =>
      drawPdf(
        compose.letter(timber, "MF", "2026-11-17", [
          "Please send us your freight rates for sawn timber, Port Halven to Skarra, for the coming year.",
        ]),
        layoutOf(timber),
      ),
    sender: from(timber),
    truth: {
      company: "MF",
      documentType: "letter",
      clips: ["customerAccount:C-1288"],
      documentDate: "2026-11-17",
      trouble: "two accounts that differ only in capitals",
    },
  });
  // The sales desk and the quay.
  const bookings = world
    .of("MF", "freightBooking")
    .filter((b) => (b.fields["sailingDate"] ?? "") >= "2026-11-10")
    .slice(0, 14);
  bookings.forEach((b, i) => {
    const customer = compose.accountOf(world, b);
    const sailing = b.fields["sailingDate"] ?? world.today;
    const clips = [`freightBooking:${b.key}`];
    if (i % 4 === 0)
      add({
        queue: "sales-desk",
        source: "mail",
        fileName: `Packing list ${b.key}.pdf`,
        make: () => drawPdf(compose.packingList(world, b, chance(i + 40)), layoutOf(customer)),
        sender: from(customer),
        truth: { company: "MF", documentType: "packingList", clips, documentDate: dayAfter(sailing, -1) },
      });
    else if (i % 4 === 1)
      add({
        queue: "sales-desk",
        source: "mail",
        fileName: `${b.fields["yourReference"]}.docx`,
        make: () =>
          writeDocx([
            `Booking request ${b.fields["yourReference"]}`,
            `${customer?.title ?? "A new shipper"} asks for ${b.fields["description"]} on ${b.fields["vessel"]}`,
            `Sailing ${sailing}, ${b.fields["route"]}`,
            "Please confirm by return.",
          ]),
        sender: from(customer),
        truth: { company: "MF", documentType: "bookingRequest", clips },
      });
    else if (i % 4 === 2)
      add({
        queue: "sales-desk",
        source: "mail",
        fileName: `packing ${b.key}.xlsx`,
        make: () =>
          writeXlsx("Packing list", [
            ["Booking", b.key],
            ["Trailer", "Goods", "Crates", "kg"],
            ["KS-11", "Langoustine", 30, 540],
            ["KS-14", "Brown crab", 28, 616],
          ]),
        sender: from(customer),
        truth: { company: "MF", documentType: "packingList", clips },
      });
    else
      add({
        queue: "quay-office",
        source: "folder",
        fileName: `temperature ${b.key}.csv`,
        make: async () =>
          writeCsv([
            ["Booking", b.key, ""],
            ["Time", "Trailer", "Celsius"],
            ...Array.from({ length: 40 }, (_, k) => [
              `${sailing}T0${k % 10}:15`,
              `KS-${11 + (k % 3) * 3}`,
              (2 + chance(k + i).next() * 2).toFixed(1),
            ]),
          ]),
        sender: null,
        truth: { company: "MF", documentType: "temperatureLog", clips },
      });
  });
  const loadings = world.of("MF", "loadingConfirmation").slice(0, 4);
  loadings.forEach((l, i) =>
    add({
      queue: "quay-office",
      source: "scanner",
      fileName: `scan-00${60 + i}.tif`,
      make: async () => scanTiff(await scanPages(await drawPdf(compose.loadingList(world, l, chance(i + 70)), 6), chance(i + 71), 1)),
      sender: null,
      truth: { company: "MF", documentType: "loadingList", clips: [`loadingConfirmation:${l.key}`] },
    }),
  );
  const claim = world.of("MF", "damageClaim")[0];
  if (claim)
    add({
      queue: "general",
      source: "mail",
      fileName: `claim ${claim.key}.eml`,
      make: async () =>
        writeMail({
          from: "Private claimant <claims@skarra.example>",
          to: "claims@merrowick-ferries.example",
          subject: `Claim ${claim.key}`,
          date: "2026-11-19T15:02:00Z",
          text: "See the form attached.",
          attachments: [{ name: "claim form.pdf", type: "application/pdf", bytes: await drawPdf(compose.claimForm(world, claim), 8) }],
        }),
      sender: "Private claimant <claims@skarra.example>",
      truth: { company: "MF", documentType: "mail", clips: [`damageClaim:${claim.key}`] },
    });
  const member = world.of("MF", "crewMember")[30];
  if (member)
    add({
      queue: "crew-office",
      source: "scanner",
      fileName: "medical renewed.pdf",
      make: () =>
        drawPdf(
          compose.certificate(member.title, "medical fitness at sea", `ME-${member.key}-26`, "2026-11-16", "2028-11-15", chance(3)),
          4,
        ),
      sender: null,
      truth: { company: "MF", documentType: "medicalCertificate", clips: [`crewMember:${member.key}`], documentDate: "2026-11-16" },
    });
  for (const [i, item] of world.of("MF", "stockItem").slice(20, 23).entries())
    add({
      queue: "general",
      source: "mail",
      fileName: `batch ${item.fields["batch"]}.pdf`,
      make: () =>
        drawPdf(
          compose.certificate(
            item.title,
            "the batch stated",
            item.fields["batch"] ?? "",
            "2026-11-12",
            item.fields["expires"] ?? "",
            chance(i),
          ),
          10,
        ),
      sender: "Kelder Safety Equipment <quality@kelder-safety.example>",
      truth: {
        company: "MF",
        documentType: "batchCertificate",
        clips: [`stockItem:${item.key}`],
        documentNumber: item.fields["batch"] ?? "",
      },
    });
  add({
    queue: "general",
    source: "drop",
    fileName: "notes from the call.txt",
    make: async () =>
      Buffer.from(
        `Call with ${order(0).parent?.key}, 19 Nov\nFuel berth is closed on Sunday; next bunkering Monday 06:00.\nAsked for a credit of ${amountOf(12570)} for the levy.\n`,
      ),
    sender: null,
    truth: { company: "MF", documentType: "activity", clips: ["supplierAccount:S-2004"] },
  });
  return papers;
}

/** Which of the clean invoices asks more for a line than was ordered. */
const DEARER = 13;

/** An order's lines with the first one twelve in a hundred dearer, and the sums that follow. */
function dearer(order: WorldRecord): { readonly lines: readonly Line[]; readonly money: NonNullable<Paper["money"]> } {
  const lines = (order.lines ?? []).map((l, i) => (i === 0 ? { ...l, price: Math.round(l.price * 1.12) } : l));
  return { lines, money: { ...withTax(netOf(lines)), currency: order.currency ?? "GBP" } };
}

/** Locks a PDF with a password that nobody has. */
async function lock(bytes: Uint8Array): Promise<Uint8Array> {
  const pdf = await PDFDocument.load(bytes);
  pdf.encrypt({ userPassword: "a secret of theirs", ownerPassword: "another" });
  return pdf.save({ useObjectStreams: false });
}
