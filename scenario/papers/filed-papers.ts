import { chance, dayAfter } from "../random.ts";
import type { World, WorldRecord } from "../world.ts";
import * as compose from "./compose.ts";
import { LAYOUTS, drawPdf } from "./draw-pdf.ts";
import { deckPhoto, scanPages, scanPdf } from "./draw-scan.ts";
import { writeCsv, writeDocx, writeMail, writeXlsx } from "./write-files.ts";

/** A document that was filed before the demo begins. */
export interface FiledPaper {
  readonly fileName: string;
  readonly make: () => Promise<Uint8Array>;
  readonly documentType: string;
  readonly clips: readonly WorldRecord[];
  readonly properties: Readonly<Record<string, string>>;
  readonly queue: string;
  readonly source: string;
  readonly sender: string | null;
  /** Day it came in; it was filed the same day. */
  readonly day: string;
  readonly by: string;
}

const clerk = "tam.corrigall@merrowick.example";
const desk = "nessa.quill@merrowick.example";
const office = "isla.rowe@merrowick.example";

/** The layout a sender uses, always the same one. */
export function layoutOf(account: WorldRecord | null): number {
  return account ? Number(account.key.replace(/\D/g, "")) % LAYOUTS : 3;
}

/** The documents filed so far: about 700, newest records first. */
export function filedPapers(world: World): readonly FiledPaper[] {
  const c = chance(77);
  const papers: FiledPaper[] = [];
  const until = (day: string): string => (day >= world.today ? dayAfter(world.today, -1) : day);
  const add = (p: Omit<FiledPaper, "sender"> & { sender?: string | null }): void =>
    void papers.push({ ...p, sender: p.sender ?? null, day: until(p.day) });
  const from = (r: WorldRecord | null): string | null => (r ? `${r.title} <${r.fields["email"] ?? ""}>` : null);
  for (const company of ["MF", "QS"] as const) {
    const half = company === "MF" ? 1 : 0.5;
    const invoices = new Map(world.of(company, "supplierInvoice").map((r) => [r.fields["orderNumber"], r]));
    for (const order of world.of(company, "purchaseOrder").slice(45, 45 + 58 * half)) {
      const supplier = compose.accountOf(world, order);
      const day = order.fields["orderDate"] ?? world.today;
      add({
        fileName: `${order.key}.pdf`,
        make: () => drawPdf(compose.purchaseOrder(world, order), company === "MF" ? 0 : 9),
        documentType: "purchaseOrder",
        clips: [order],
        properties: { documentDate: day },
        queue: "payables",
        source: "api",
        day,
        by: office,
      });
      const invoice = invoices.get(order.key);
      if (invoice) {
        const number = invoice.fields["documentNumber"] ?? "";
        const date = invoice.fields["documentDate"] ?? day;
        add({
          fileName: `${number.replace(/\W/g, "-")}.pdf`,
          make: () => drawPdf(compose.supplierInvoice(world, order, number, date), layoutOf(supplier)),
          documentType: "supplierInvoice",
          clips: [order, invoice],
          properties: { documentNumber: number, documentDate: date, dueDate: dayAfter(date, 30) },
          queue: "payables",
          source: c.hits(0.6) ? "mail" : "scanner",
          sender: from(supplier),
          day: dayAfter(date, c.whole(1, 4)),
          by: clerk,
        });
      }
      const receipt = world.of(company, "goodsReceipt").find((r) => r.fields["orderNumber"] === order.key);
      if (receipt)
        add({
          fileName: `delivery ${receipt.key}.pdf`,
          make: () => drawPdf(compose.deliveryNote(world, order, `DN${receipt.key.slice(3)}`), layoutOf(supplier)),
          documentType: "deliveryNote",
          clips: [receipt],
          properties: {
            documentNumber: `DN${receipt.key.slice(3)}`,
            deliveryDate: receipt.fields["deliveryDate"] ?? "",
            orderNumber: order.key,
          },
          queue: company === "MF" ? "payables" : "quay-office",
          source: "scanner",
          day: receipt.fields["deliveryDate"] ?? day,
          by: clerk,
        });
    }
    const loadings = new Map(world.of(company, "loadingConfirmation").map((r) => [r.fields["orderNumber"], r]));
    const sold = new Map(world.of(company, "salesInvoice").map((r) => [r.fields["orderNumber"], r]));
    for (const booking of world.of(company, "freightBooking").slice(0, 58 * half)) {
      const customer = compose.accountOf(world, booking);
      const sailing = booking.fields["sailingDate"] ?? world.today;
      const loading = loadings.get(booking.key);
      const asked = until(dayAfter(sailing, -8));
      add({
        fileName: `request ${booking.fields["yourReference"]}.pdf`,
        make: () =>
          drawPdf(compose.bookingRequest(world, booking, chance(booking.key.length + Number(booking.key.slice(2)))), layoutOf(customer)),
        documentType: "bookingRequest",
        clips: [booking],
        properties: { documentDate: asked },
        queue: "sales-desk",
        source: "mail",
        sender: from(customer),
        day: asked,
        by: company === "MF" ? desk : clerk,
      });
      if (c.hits(0.6) && sailing <= world.today)
        add({
          fileName: `packing list ${booking.key}.pdf`,
          make: () => drawPdf(compose.packingList(world, booking, chance(Number(booking.key.slice(2)))), layoutOf(customer)),
          documentType: "packingList",
          clips: loading ? [booking, loading] : [booking],
          properties: { documentDate: dayAfter(sailing, -1) },
          queue: "sales-desk",
          source: "mail",
          sender: from(customer),
          day: dayAfter(sailing, -1),
          by: clerk,
        });
      if (c.hits(0.5) && sailing <= world.today)
        add({
          fileName: `confirmation ${booking.key}.pdf`,
          make: () => drawPdf(compose.bookingConfirmation(world, booking), 5),
          documentType: "bookingConfirmation",
          clips: [booking],
          properties: { documentDate: dayAfter(sailing, -3) },
          queue: "sales-desk",
          source: "api",
          day: dayAfter(sailing, -3),
          by: clerk,
        });
      if (loading)
        add({
          fileName: `loading ${loading.key}.pdf`,
          make: () => drawPdf(compose.loadingList(world, loading, chance(Number(loading.key.slice(2)))), 6),
          documentType: "loadingList",
          clips: [loading, booking],
          // A few came back without the mate's signature.
          properties: { documentDate: sailing, signed: Number(loading.key.slice(2)) % 7 === 3 ? "no" : "yes" },
          queue: "quay-office",
          source: "scanner",
          day: sailing,
          by: clerk,
        });
      const invoice = sold.get(booking.key);
      if (invoice)
        add({
          fileName: `${invoice.key}.pdf`,
          make: () => drawPdf(compose.salesInvoice(world, invoice), 9),
          documentType: "salesInvoice",
          clips: [invoice],
          properties: {},
          queue: "sales-desk",
          source: "api",
          day: invoice.fields["documentDate"] ?? sailing,
          by: clerk,
        });
    }
    for (const claim of world.of(company, "damageClaim").slice(0, 10)) {
      const day = dayAfter(claim.fields["sailingDate"] ?? world.today, 2);
      add({
        fileName: `claim ${claim.key}.pdf`,
        make: () => drawPdf(compose.claimForm(world, claim), layoutOf(compose.accountOf(world, claim))),
        documentType: "claimForm",
        clips: [claim],
        properties: { documentDate: day, signed: "yes" },
        queue: "general",
        source: "mail",
        day,
        by: clerk,
      });
      add({
        fileName: `IMG_${2000 + c.whole(100, 999)}.jpg`,
        make: () => deckPhoto(chance(Number(claim.key.replace(/\D/g, ""))), claim.key),
        documentType: "photo",
        clips: [claim],
        properties: { documentDate: day },
        queue: "general",
        source: "phone",
        day,
        by: clerk,
      });
    }
  }
  for (const vessel of world.of("MF", "vessel")) {
    for (const what of ["passenger safety", "load line", "radio installation"]) {
      const until2 = dayAfter(world.today, c.whole(30, 600));
      add({
        fileName: `${what} ${vessel.key}.pdf`,
        make: () =>
          drawPdf(
            compose.certificate(vessel.title, what, `${vessel.key}-${what.slice(0, 2).toUpperCase()}-26`, "2026-03-02", until2, chance(5)),
            1,
          ),
        documentType: "certificate",
        clips: [vessel],
        properties: {
          documentNumber: `${vessel.key}-${what.slice(0, 2).toUpperCase()}-26`,
          documentDate: "2026-03-02",
          validUntil: until2,
        },
        queue: "general",
        source: "scanner",
        day: "2026-03-04",
        by: office,
      });
    }
  }
  for (const member of world.of("MF", "crewMember").slice(0, 24)) {
    const until3 = member.fields["certificateExpires"] ?? world.today;
    add({
      fileName: `medical ${member.key}.pdf`,
      make: () =>
        drawPdf(compose.certificate(member.title, "medical fitness at sea", `ME-${member.key}`, "2026-02-11", until3, chance(6)), 4),
      documentType: "medicalCertificate",
      clips: [member],
      properties: { documentDate: "2026-02-11", validUntil: until3 },
      queue: "crew-office",
      source: "scanner",
      day: "2026-02-12",
      by: "maren.holt@merrowick.example",
    });
    if (c.hits(0.5))
      add({
        fileName: `contract ${member.key}.docx`,
        make: () =>
          writeDocx([
            "Contract of employment",
            `between Merrowick Ferries Ltd and ${member.title}`,
            `Rank: ${member.fields["rank"]}`,
            "The master's orders are to be followed at all times. Leave is one day for each day on board.",
          ]),
        documentType: "crewContract",
        clips: [member],
        properties: { documentDate: "2026-01-15", signed: "yes" },
        queue: "crew-office",
        source: "drop",
        day: "2026-01-16",
        by: "maren.holt@merrowick.example",
      });
  }
  for (const item of world.of("MF", "stockItem").slice(0, 18))
    add({
      fileName: `${item.fields["batch"]}.pdf`,
      make: () =>
        drawPdf(
          compose.certificate(
            item.title,
            "the batch stated",
            item.fields["batch"] ?? "",
            "2026-04-20",
            item.fields["expires"] ?? "",
            chance(8),
          ),
          10,
        ),
      documentType: "batchCertificate",
      clips: [item],
      properties: { batch: item.fields["batch"] ?? "", documentDate: "2026-04-20", validUntil: item.fields["expires"] ?? "" },
      queue: "general",
      source: "mail",
      day: "2026-04-22",
      by: office,
    });
  for (const reconciliation of world.of("MF", "bankReconciliation").slice(0, 14)) {
    const period = reconciliation.fields["period"] ?? "";
    const rows = Array.from({ length: 18 }, (_, i) => [
      `${period}-${String(i + 1).padStart(2, "0")}`,
      c.pick(["Fuel", "Freight receipts", "Wages", "Harbour dues", "Catering"]),
      (c.whole(-400000, 500000) / 100).toFixed(2),
    ]);
    const bank = world.get("MF", "bankAccount", reconciliation.parent?.key ?? "BA-1");
    add({
      fileName: `statement ${period}.csv`,
      make: async () => writeCsv([["Date", "Text", "Amount"], ...rows]),
      documentType: "bankStatement",
      clips: [reconciliation, bank],
      properties: { period, documentDate: `${period}-28` },
      queue: "payables",
      source: "folder",
      day: `${period}-28`,
      by: office,
    });
    add({
      fileName: `reconciliation ${period}.xlsx`,
      make: () => writeXlsx("Reconciliation", [["Date", "Text", "Amount", "Matched"], ...rows.map((r) => [...r, "yes"])]),
      documentType: "reconciliationSheet",
      clips: [reconciliation],
      properties: { period, documentDate: `${period}-28` },
      queue: "payables",
      source: "drop",
      day: `${period}-28`,
      by: office,
    });
  }
  for (const customer of world.of("MF", "customerAccount").slice(0, 16)) {
    add({
      fileName: `terms ${customer.key}.pdf`,
      make: async () =>
        scanPdf(
          await scanPages(
            await drawPdf(
              compose.letter(customer, "MF", "2026-01-12", [
                "We accept your terms of carriage for the year 2026, thirty days net.",
                "Signed for the company",
              ]),
              layoutOf(customer),
            ),
            chance(9),
            1,
          ),
          "2026-01-12",
        ),
      documentType: "customerAgreement",
      clips: [customer],
      properties: { documentDate: "2026-01-12", validUntil: "2026-12-31", signed: "yes" },
      queue: "sales-desk",
      source: "scanner",
      sender: from(customer),
      day: "2026-01-14",
      by: desk,
    });
    add({
      fileName: `mail ${customer.key}.eml`,
      make: async () =>
        writeMail({
          from: from(customer) ?? "",
          to: "sales@merrowick-ferries.example",
          subject: `Timetable for ${customer.title}`,
          date: "2026-05-06T09:30:00Z",
          text: `Good morning,\n\ncould you send us the summer timetable and the freight rates for ${customer.fields["address"]}?\n\nKind regards\n${customer.title}`,
          attachments: [],
        }),
      documentType: "mail",
      clips: [customer],
      properties: { documentDate: "2026-05-06" },
      queue: "sales-desk",
      source: "mail",
      sender: from(customer),
      day: "2026-05-06",
      by: desk,
    });
  }
  return papers;
}
