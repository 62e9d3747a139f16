import { PDFDocument, type PDFFont, type PDFPage, rgb, StandardFonts } from "@cantoo/pdf-lib";
import { chance, type Chance, dayAfter } from "../random.ts";
import { iban as makeIban, type World, type WorldRecord } from "../world.ts";
import { accountOf, ourselves } from "./compose.ts";

/** What is right for a judged document. */
export interface JudgedTruth {
  readonly seed: number;
  readonly language: "en" | "de" | "fr";
  readonly documentType: string;
  readonly company: "MF" | "QS";
  /** `type:key` of its record; null when it is none of ours. */
  readonly record: string | null;
  /** Whether a person who looks at the document and the records could be sure. */
  readonly isClear: boolean;
  readonly fields: Readonly<
    Partial<
      Record<
        | "documentNumber"
        | "documentDate"
        | "dueDate"
        | "deliveryDate"
        | "currency"
        | "net"
        | "tax"
        | "total"
        | "orderReference"
        | "customerNumber"
        | "iban",
        string
      >
    >
  >;
}
export interface JudgedPaper {
  readonly truth: JudgedTruth;
  readonly fileName: string;
  readonly sender: string | null;
  readonly pdf: Uint8Array;
}

type Language = JudgedTruth["language"];
type Kind = "invoice" | "creditNote" | "deliveryNote" | "orderConfirmation" | "statement" | "reminder";

const A4: readonly [number, number] = [595.28, 841.89];
const ink = rgb(0.09, 0.1, 0.14);
const pale = rgb(0.42, 0.44, 0.48);

const kinds: readonly (readonly [Kind, number])[] = [
  ["invoice", 0.62],
  ["creditNote", 0.08],
  ["deliveryNote", 0.1],
  ["orderConfirmation", 0.08],
  ["statement", 0.06],
  ["reminder", 0.06],
];
const typeOf: Readonly<Record<Kind, string>> = {
  invoice: "supplierInvoice",
  creditNote: "supplierCreditNote",
  deliveryNote: "deliveryNote",
  orderConfirmation: "orderConfirmation",
  statement: "supplierStatement",
  reminder: "reminder",
};

interface Words {
  readonly headings: Readonly<Record<Kind, readonly string[]>>;
  readonly lines: readonly (readonly string[])[];
  readonly sentence: string;
  readonly dear: readonly string[];
  readonly extras: readonly (readonly [label: string, value: string])[];
  readonly page: string;
  readonly number: readonly string[];
  readonly date: readonly string[];
  readonly due: readonly string[];
  readonly order: readonly string[];
  readonly customer: readonly string[];
  readonly delivery: readonly string[];
  readonly net: readonly string[];
  readonly tax: readonly string[];
  readonly total: readonly string[];
}
/** Words of one language; of each list a sender uses one. */
const words: Readonly<Record<Language, Words>> = {
  en: {
    headings: {
      invoice: ["Invoice", "TAX INVOICE", "Sales Invoice", "VAT Invoice"],
      creditNote: ["Credit Note", "CREDIT NOTE", "Credit Memo"],
      deliveryNote: ["Delivery Note", "Despatch Note", "DELIVERY NOTE"],
      orderConfirmation: ["Order Confirmation", "Order Acknowledgement"],
      statement: ["Statement of Account", "Statement", "STATEMENT"],
      reminder: ["Payment Reminder", "Reminder", "Overdue notice"],
    },
    number: ["Invoice No.", "Invoice number", "Document No", "Number", "Our ref", "No", "Invoice #", "Doc. ref."],
    date: ["Date", "Invoice date", "Date of issue", "Issued", "Tax point", "Document date"],
    due: ["Due date", "Payment due by", "Due", "Please pay by", "Payable by"],
    order: ["Your order", "PO number", "Purchase order", "Your PO", "Order no.", "Customer order", "Your order ref.", "Your reference"],
    customer: ["Customer no.", "Account", "Account no", "Customer ID", "A/C"],
    delivery: ["Delivery date", "Delivered", "Despatched", "Date of supply"],
    net: ["Subtotal", "Net", "Total net", "Goods total", "Total excl. VAT"],
    tax: ["VAT 20%", "VAT @ 20 %", "VAT (20%)", "Plus VAT 20.0%"],
    total: ["Total", "Total due", "Amount due", "Grand total", "Total incl. VAT", "TOTAL TO PAY", "Balance due"],
    lines: [
      ["Description", "Qty", "Unit price", "Amount"],
      ["Item", "Quantity", "Price", "Total"],
      ["Product", "Units", "Rate", "Value"],
    ],
    sentence: "{heading} {number} dated {date}",
    dear: ["Thank you for your business.", "Please quote our number with your payment.", "Goods remain our property until paid in full."],
    extras: [
      ["Tel.", "01700 556412"],
      ["Fax", "01700 556413"],
      ["Contact", "Ilsa Brand"],
      ["Order date", "#"],
      ["Your contact", "Purchasing"],
      ["Terms", "30 days net"],
    ],
    page: "Page 1 of 1",
  },
  de: {
    headings: {
      invoice: ["Rechnung", "RECHNUNG", "Schlussrechnung"],
      creditNote: ["Gutschrift", "GUTSCHRIFT", "Rechnungskorrektur"],
      deliveryNote: ["Lieferschein", "LIEFERSCHEIN"],
      orderConfirmation: ["Auftragsbestätigung", "AUFTRAGSBESTÄTIGUNG"],
      statement: ["Kontoauszug", "Saldenmitteilung", "Offene Posten"],
      reminder: ["Mahnung", "Zahlungserinnerung"],
    },
    number: ["Rechnungsnummer", "Rechnungs-Nr.", "Beleg-Nr.", "Nr.", "Belegnummer", "Rechnung Nr.", "Dokument-Nr."],
    date: ["Datum", "Rechnungsdatum", "Belegdatum", "vom", "Ausstellungsdatum"],
    due: ["Fällig am", "Zahlbar bis", "Fälligkeit", "Zahlungsziel"],
    order: ["Ihre Bestellung", "Bestellnummer", "Bestell-Nr.", "Ihre Bestellnummer", "Ihr Auftrag", "Auftrags-Nr.", "Ihr Zeichen"],
    customer: ["Kundennummer", "Kunden-Nr.", "Kd.-Nr.", "Debitor"],
    delivery: ["Lieferdatum", "Leistungsdatum", "Geliefert am", "Liefertag"],
    net: ["Nettobetrag", "Summe netto", "Zwischensumme", "Netto", "Warenwert"],
    tax: ["MwSt. 19 %", "USt. 19%", "zzgl. 19 % MwSt.", "Umsatzsteuer 19,00 %"],
    total: ["Gesamtbetrag", "Rechnungsbetrag", "Bruttobetrag", "Zu zahlen", "Endbetrag", "Gesamtsumme"],
    lines: [
      ["Bezeichnung", "Menge", "Einzelpreis", "Betrag"],
      ["Artikel", "Anzahl", "Preis", "Gesamt"],
      ["Leistung", "Menge", "E-Preis", "G-Preis"],
    ],
    sentence: "{heading} Nr. {number} vom {date}",
    dear: [
      "Wir danken für Ihren Auftrag.",
      "Bitte geben Sie bei der Zahlung unsere Nummer an.",
      "Die Ware bleibt bis zur Zahlung unser Eigentum.",
    ],
    extras: [
      ["Telefon", "04711 55 641"],
      ["Telefax", "04711 55 642"],
      ["Ansprechpartner", "Frau Thale"],
      ["Bestelldatum", "#"],
      ["Steuernummer", "21/815/08150"],
      ["Handelsregister", "HRB 4711"],
    ],
    page: "Seite 1 von 1",
  },
  fr: {
    headings: {
      invoice: ["Facture", "FACTURE"],
      creditNote: ["Avoir", "AVOIR", "Facture d'avoir"],
      deliveryNote: ["Bon de livraison", "BON DE LIVRAISON"],
      orderConfirmation: ["Confirmation de commande", "Accusé de réception de commande"],
      statement: ["Relevé de compte", "Relevé"],
      reminder: ["Rappel", "Relance"],
    },
    number: ["Facture n°", "N° de facture", "Numéro", "N°", "Numéro de facture", "Pièce n°"],
    date: ["Date", "Date de facture", "Date d'émission", "Le", "Date de facturation"],
    due: ["Échéance", "Date d'échéance", "À payer avant le", "Date limite de paiement"],
    order: ["Votre commande", "N° de commande", "Commande n°", "Bon de commande", "V/Réf", "Votre référence"],
    customer: ["N° client", "Code client", "Client", "Numéro client"],
    delivery: ["Date de livraison", "Livré le", "Livraison"],
    net: ["Total HT", "Montant HT", "Sous-total", "Total net HT"],
    tax: ["TVA 20 %", "TVA (20,00%)", "Montant TVA", "T.V.A. 20%"],
    total: ["Total TTC", "Net à payer", "Montant TTC", "Total à payer", "Montant total TTC"],
    lines: [
      ["Désignation", "Qté", "Prix unitaire", "Montant"],
      ["Article", "Quantité", "P.U.", "Total"],
    ],
    sentence: "{heading} n° {number} du {date}",
    dear: [
      "Nous vous remercions de votre confiance.",
      "Merci de rappeler notre numéro lors du paiement.",
      "Pas d'escompte pour paiement anticipé.",
    ],
    extras: [
      ["Tél.", "02 97 55 64 12"],
      ["Fax", "02 97 55 64 13"],
      ["SIRET", "552 008 443 00017"],
      ["Votre contact", "Mme Kerrec"],
      ["Date de commande", "#"],
      ["RCS", "Lorient 552 008 443"],
    ],
    page: "Page 1 / 1",
  },
};
const months: Readonly<Record<Language, readonly string[]>> = {
  en: ["January", "February", "March", "April", "May", "June", "July", "August", "September", "October", "November", "December"],
  de: ["Januar", "Februar", "März", "April", "Mai", "Juni", "Juli", "August", "September", "Oktober", "November", "Dezember"],
  fr: ["janvier", "février", "mars", "avril", "mai", "juin", "juillet", "août", "septembre", "octobre", "novembre", "décembre"],
};
const taxRate: Readonly<Record<Language, number>> = { en: 20, de: 19, fr: 20 };

/** How one sender writes: the same for all its documents. */
interface Hand {
  readonly language: Language;
  readonly day: (day: string) => string;
  readonly amount: (pennies: number) => string;
  readonly currency: string;
  readonly currencyAt: "before" | "behind" | "label" | "symbol" | "none";
  readonly labels: Readonly<Record<"number" | "date" | "due" | "order" | "customer" | "delivery" | "net" | "tax" | "total", string>>;
  readonly colon: string;
  readonly place: "rightList" | "leftList" | "grid" | "inline" | "sentence" | "box";
  readonly sums: "right" | "left" | "row" | "wide";
  readonly size: number;
  readonly margin: number;
  readonly font: StandardFonts;
  readonly bold: StandardFonts;
  readonly head: number;
  readonly lines: readonly string[];
  readonly numbers: (n: number) => string;
  readonly spells: (key: string) => string;
  readonly shows: {
    readonly customer: boolean;
    readonly due: boolean;
    readonly delivery: boolean;
    readonly tax: boolean;
    readonly extras: number;
    readonly itemNumbers: boolean;
  };
}

function handOf(seed: number): Hand {
  const c = chance(seed * 7919 + 13);
  const language = c.pick(["en", "en", "de", "fr"] as const);
  const w = words[language];
  const dayStyle = c.whole(0, 5);
  const day = (text: string): string => {
    const [y = "", m = "", d = ""] = text.split("-");
    const name = months[language][Number(m) - 1] ?? "";
    if (language === "de")
      return (
        [
          `${d}.${m}.${y}`,
          `${Number(d)}. ${name} ${y}`,
          `${d}.${m}.${y.slice(2)}`,
          text,
          `${Number(d)}.${Number(m)}.${y}`,
          `${d}. ${name.slice(0, 3)}. ${y}`,
        ][dayStyle] ?? text
      );
    if (language === "fr")
      return (
        [
          `${d}/${m}/${y}`,
          `${Number(d)} ${name} ${y}`,
          `${d}/${m}/${y.slice(2)}`,
          `${d}-${m}-${y}`,
          `${d}.${m}.${y}`,
          `le ${Number(d)} ${name} ${y}`,
        ][dayStyle] ?? text
      );
    return (
      [
        `${d}/${m}/${y}`,
        `${Number(d)} ${name} ${y}`,
        `${name} ${Number(d)}, ${y}`,
        text,
        `${d}-${name.slice(0, 3)}-${y}`,
        `${Number(d)} ${name.slice(0, 3)} ${y.slice(2)}`,
      ][dayStyle] ?? text
    );
  };
  const [group, places] =
    language === "de"
      ? c.pick([
          [".", ","],
          [".", ","],
          ["", ","],
          ["'", "."],
        ] as const)
      : language === "fr"
        ? c.pick([
            [" ", ","],
            ["\u00a0", ","],
            ["", ","],
          ] as const)
        : c.pick([
            [",", "."],
            [",", "."],
            ["", "."],
          ] as const);
  const amount = (pennies: number): string => {
    const whole = String(Math.floor(Math.abs(pennies) / 100)).replace(/\B(?=(\d{3})+(?!\d))/g, group);
    return `${pennies < 0 ? "-" : ""}${whole}${places}${String(Math.abs(pennies) % 100).padStart(2, "0")}`;
  };
  const [font, bold] = c.pick([
    [StandardFonts.Helvetica, StandardFonts.HelveticaBold],
    [StandardFonts.TimesRoman, StandardFonts.TimesRomanBold],
    [StandardFonts.Courier, StandardFonts.CourierBold],
  ] as const);
  const numberStyle = c.whole(0, 7);
  const spelling = c.whole(0, 5);
  return {
    language,
    day,
    amount,
    currency: language === "en" ? c.pick(["GBP", "GBP", "EUR"]) : c.pick(["EUR", "EUR", "GBP"]),
    currencyAt: c.pick(["before", "behind", "label", "symbol", "none"]),
    labels: {
      number: c.pick(w.number),
      date: c.pick(w.date),
      due: c.pick(w.due),
      order: c.pick(w.order),
      customer: c.pick(w.customer),
      delivery: c.pick(w.delivery),
      net: c.pick(w.net),
      tax: c.pick(w.tax),
      total: c.pick(w.total),
    },
    colon: c.pick([":", "", " :", ""]),
    place: c.pick(["rightList", "leftList", "grid", "inline", "sentence", "box"]),
    sums: c.pick(["right", "left", "row", "wide"]),
    size: c.whole(8, 11),
    margin: c.whole(38, 70),
    font,
    bold,
    head: c.whole(0, 3),
    lines: c.pick(w.lines),
    numbers: (n) =>
      [
        `${2600000 + n}`,
        `RE-2026-${1000 + n}`,
        `${n + 40}/26`,
        `F${String(n).padStart(6, "0")}`,
        `INV-${n + 900}`,
        `26-${n + 3000}-A`,
        `${n + 70500}`,
        `A/${n + 200}/2026`,
      ][numberStyle] ?? String(n),
    spells: (key) => [key, key, key.replace("-", " "), key.replace("-", ""), key.toLowerCase(), key.replace(/^PO-/, "")][spelling] ?? key,
    shows: {
      customer: c.hits(0.6),
      due: c.hits(0.65),
      delivery: c.hits(0.5),
      tax: c.hits(0.92),
      extras: c.whole(0, 4),
      itemNumbers: c.hits(0.3),
    },
  };
}

/** Puts text on a page, from its top left. */
class Sheet {
  constructor(
    private page: PDFPage,
    readonly font: PDFFont,
    readonly bold: PDFFont,
    private readonly hand: Hand,
  ) {}
  /** Goes on on another page. */
  turnOver(page: PDFPage): void {
    this.page = page;
  }
  text(
    text: string,
    x: number,
    y: number,
    options: { readonly bold?: boolean; readonly size?: number; readonly right?: boolean; readonly pale?: boolean } = {},
  ): void {
    const font = options.bold ? this.bold : this.font;
    const size = options.size ?? this.hand.size;
    const clean = text.replace(/[–—]/g, "-").replace(/[^\u0020-\u00ff€]/g, "?");
    this.page.drawText(clean, {
      x: options.right ? x - font.widthOfTextAtSize(clean, size) : x,
      y: A4[1] - y - size,
      size,
      font,
      color: options.pale ? pale : ink,
    });
  }
  line(y: number, from = this.hand.margin, to = A4[0] - this.hand.margin): void {
    this.page.drawLine({ start: { x: from, y: A4[1] - y }, end: { x: to, y: A4[1] - y }, thickness: 0.6, color: pale });
  }
}

/** A document of a supplier in a layout of its own, for an order of the demo world or for none. The same seed gives the same document. */
export async function foreignPaper(world: World, seed: number): Promise<JudgedPaper> {
  const c = chance(seed * 104_729 + 7);
  const company = c.hits(0.8) ? "MF" : "QS";
  const orders = world.of(company, "purchaseOrder");
  const order = c.pick(orders);
  const supplier = accountOf(world, order);
  if (!supplier) throw new Error("an order has a supplier");
  // A hand for each sender: the judge parts documents by it.
  const hand = handOf(Number(supplier.key.replace(/\D/g, "")) + (seed % 2) * 5000);
  let at = c.next();
  const kind = kinds.find(([, share]) => (at -= share) < 0)?.[0] ?? "invoice";
  const isStranger = c.hits(0.05);
  return drawPaper(world, c, seed, hand, kind, order, supplier, company, isStranger);
}

async function drawPaper(
  world: World,
  c: Chance,
  seed: number,
  hand: Hand,
  kind: Kind,
  order: WorldRecord,
  supplier: WorldRecord,
  company: "MF" | "QS",
  isStranger: boolean,
): Promise<JudgedPaper> {
  const w = words[hand.language];
  const pdf = await PDFDocument.create();
  const fixed = new Date("2026-11-01T09:00:00Z");
  pdf.setCreationDate(fixed);
  pdf.setModificationDate(fixed);
  const sheet = new Sheet(pdf.addPage([...A4]), await pdf.embedFont(hand.font), await pdf.embedFont(hand.bold), hand);
  const { size, margin } = hand;
  const right = A4[0] - margin;
  const name = isStranger ? c.pick(["Quendal Ropeworks", "Atelier Morvane SARL", "Hartwin Kessel GmbH"]) : supplier.title;
  const net = Math.round(Number(order.fields["net"] ?? "100") * 100);
  const tax = hand.shows.tax ? Math.round((net * taxRate[hand.language]) / 100) : 0;
  const ofOrder = hand.language === "en" || taxRate[hand.language] === 20;
  const total = net + tax;
  const date = dayAfter(world.today, -c.whole(0, 40));
  const due = dayAfter(date, c.pick([14, 30, 30, 45]));
  const delivered = order.fields["deliveryDate"] ?? dayAfter(date, -3);
  const number = hand.numbers(c.whole(100, 9000));
  const heading = c.pick(w.headings[kind]);
  const hasMoney = kind !== "deliveryNote";
  const namesOrder = !isStranger && kind !== "statement" && kind !== "reminder" && c.hits(0.9);
  const reference = hand.spells(order.key);
  const account = makeIban(isStranger ? 888_000 + (seed % 1000) : 1);
  const iban = isStranger ? account : (supplier.fields["iban"] ?? account);
  const customer = `${40_000 + (seed % 900)}`;
  const money = (pennies: number): string => {
    const text = hand.amount(kind === "creditNote" && seed % 3 === 0 ? -pennies : pennies);
    if (hand.currencyAt === "before") return `${hand.currency} ${text}`;
    if (hand.currencyAt === "behind") return `${text} ${hand.currency}`;
    if (hand.currencyAt === "symbol") return hand.currency === "GBP" ? `£${text}` : hand.language === "en" ? `€${text}` : `${text} €`;
    return text;
  };
  // Head: the sender at one of four places, whom it is for.
  const headX = hand.head === 1 ? right : hand.head === 2 ? A4[0] / 2 - sheet.bold.widthOfTextAtSize(name, size + 6) / 2 : margin;
  sheet.text(name, headX, margin, { bold: true, size: size + (hand.head === 3 ? 2 : 6), right: hand.head === 1 });
  sheet.text(
    isStranger ? "7 Rope Walk, Quendal" : (supplier.fields["address"] ?? ""),
    hand.head === 1 ? right : margin,
    margin + size * 2.1,
    { pale: true, right: hand.head === 1 },
  );
  let y = margin + size * 6;
  sheet.text(ourselves[company].name, margin, y);
  sheet.text(ourselves[company].address, margin, y + size * 1.5);
  if (hand.place !== "sentence")
    sheet.text(heading, hand.place === "leftList" ? right : margin, y + size * (hand.place === "leftList" ? 0 : 5), {
      bold: true,
      size: size + 5,
      right: hand.place === "leftList",
    });
  y += size * 5;
  const facts: [string, string][] = [
    [
      kind === "invoice" || kind === "reminder"
        ? hand.labels.number
        : hand.labels.number.replace(/^(Invoice|Rechnungs?-?|Facture|N° de facture|Numéro de facture|Rechnung) ?/i, "") || "No.",
      number,
    ],
    [hand.labels.date, hand.day(date)],
  ];
  if (facts[0] && !/\p{L}|#/u.test(facts[0][0])) facts[0][0] = "No.";
  if (namesOrder) facts.push([hand.labels.order, reference]);
  if (hand.shows.customer) facts.push([hand.labels.customer, customer]);
  if (hand.shows.delivery && (kind === "invoice" || kind === "deliveryNote")) facts.push([hand.labels.delivery, hand.day(delivered)]);
  if (hand.shows.due && (kind === "invoice" || kind === "reminder")) facts.push([hand.labels.due, hand.day(due)]);
  for (const [label, value] of w.extras.slice(0, hand.shows.extras))
    facts.push([label, value === "#" ? hand.day(order.fields["orderDate"] ?? date) : value]);
  const label = (text: string): string => `${text}${hand.colon}`;
  if (hand.place === "rightList" || hand.place === "box") {
    facts.forEach(([l, v], i) => {
      sheet.text(label(l), A4[0] * 0.58, y - size * 4 + i * size * 1.6, { pale: hand.place === "rightList" });
      sheet.text(v, hand.place === "box" ? right : A4[0] * 0.78, y - size * 4 + i * size * 1.6, { right: hand.place === "box" });
    });
    y += size * Math.max(4, facts.length * 1.6 - 2);
  } else if (hand.place === "leftList") {
    facts.forEach(([l, v], i) => {
      sheet.text(label(l), margin, y + i * size * 1.6);
      sheet.text(v, margin + A4[0] * 0.22, y + i * size * 1.6, { bold: i === 0 });
    });
    y += size * (facts.length * 1.6 + 2);
  } else if (hand.place === "grid") {
    y += size * 4;
    for (let from = 0; from < facts.length; from += 4) {
      facts.slice(from, from + 4).forEach(([l, v], i) => {
        const x = margin + (i * (right - margin)) / 4;
        sheet.text(label(l), x, y, { pale: true, size: size - 1 });
        sheet.text(v, x, y + size * 1.5);
      });
      y += size * 4;
    }
  } else if (hand.place === "inline") {
    y += size * 4;
    facts.forEach(([l, v]) => {
      sheet.text(`${l}${hand.colon || ":"} ${v}`, margin, y);
      y += size * 1.6;
    });
    y += size;
  } else {
    y += size * 3;
    sheet.text(w.sentence.replace("{heading}", heading).replace("{number}", number).replace("{date}", hand.day(date)), margin, y, {
      bold: true,
      size: size + 3,
    });
    y += size * 3;
    for (const [l, v] of facts.slice(2)) {
      sheet.text(`${l}${hand.colon || ":"} ${v}`, margin, y);
      y += size * 1.6;
    }
    y += size;
  }
  y += size * 2;
  // Lines, or the open invoices of a statement.
  const columns = [margin, A4[0] * 0.6, A4[0] * 0.76, right];
  if (kind === "statement") {
    ["", "", "", ""].forEach((_, i) =>
      sheet.text([w.number[0] ?? "", w.date[0] ?? "", "", w.total[0] ?? ""][i] ?? "", columns[i] ?? 0, y, { bold: true, right: i === 3 }),
    );
    y += size * 1.8;
    const parts = [0.5, 0.3, 0.2].map((share) => Math.round(total * share));
    parts[0] = total - (parts[1] ?? 0) - (parts[2] ?? 0);
    parts.forEach((part, i) => {
      sheet.text(hand.numbers(50 + i * 7), columns[0] ?? 0, y);
      sheet.text(hand.day(dayAfter(date, -12 - i * 9)), columns[1] ?? 0, y, { right: false });
      sheet.text(hand.amount(part), right, y, { right: true });
      y += size * 1.6;
    });
  } else {
    hand.lines.forEach((h, i) => sheet.text(h, columns[i] ?? 0, y, { bold: true, right: i > 0 }));
    sheet.line(y + size * 1.6);
    y += size * 2;
    for (const [i, l] of (order.lines ?? []).entries()) {
      if (y > A4[1] - margin - size * 7) {
        sheet.turnOver(pdf.addPage([...A4]));
        y = margin;
      }
      sheet.text(`${hand.shows.itemNumbers ? `${4410 + i * 3} ` : ""}${l.text}`, columns[0] ?? 0, y);
      sheet.text(`${l.quantity}`, columns[1] ?? 0, y, { right: true });
      if (hasMoney) {
        sheet.text(hand.amount(Math.round(l.price)), columns[2] ?? 0, y, { right: true });
        sheet.text(hand.amount(Math.round(l.quantity * l.price)), columns[3] ?? 0, y, { right: true });
      }
      y += size * 1.7;
    }
  }
  y += size * 1.5;
  if (y > A4[1] - margin - size * 14) {
    sheet.turnOver(pdf.addPage([...A4]));
    y = margin;
  }
  if (hasMoney) {
    const sums: [string, string][] = kind === "statement" || kind === "reminder" ? [[hand.labels.total, money(total)]] : [];
    if (sums.length === 0) {
      if (hand.shows.tax) sums.push([hand.labels.net, money(net)], [hand.labels.tax, money(tax)]);
      sums.push([hand.currencyAt === "label" ? `${hand.labels.total} ${hand.currency}` : hand.labels.total, money(total)]);
    }
    if (hand.sums === "row") {
      sums.forEach(([l, v], i) => {
        const x = right - (sums.length - 1 - i) * 120;
        sheet.text(l, x, y, { right: true, pale: true });
        sheet.text(v, x, y + size * 1.5, { right: true, bold: i === sums.length - 1 });
      });
      y += size * 4;
    } else
      for (const [i, [l, v]] of sums.entries()) {
        const isLast = i === sums.length - 1;
        const x = hand.sums === "left" ? margin + 190 : right;
        sheet.text(label(l), hand.sums === "left" ? margin : hand.sums === "wide" ? A4[0] * 0.45 : A4[0] * 0.6, y, { bold: isLast });
        sheet.text(v, x, y, { right: true, bold: isLast });
        y += size * 1.7;
      }
  }
  y += size * 2;
  sheet.text(c.pick(w.dear), margin, y, { pale: true });
  const footY = A4[1] - margin - size * 3;
  sheet.line(footY - 4);
  const small = Math.max(6.5, size - 2);
  const grouped = iban
    .replace(/\s/g, "")
    .replace(/(.{4})/g, "$1 ")
    .trim();
  sheet.text(`${name} · IBAN ${grouped}`, margin, footY, { size: small, pale: true });
  if (!isStranger && supplier.fields["vatNumber"])
    sheet.text(
      `${hand.language === "de" ? "USt-IdNr." : hand.language === "fr" ? "N° TVA" : "VAT No."} ${supplier.fields["vatNumber"]}`,
      margin,
      footY + size * 1.3,
      { size: small, pale: true },
    );
  const pages = pdf.getPageCount();
  sheet.text(w.page.replaceAll("1", String(pages)), right, footY + size * 1.3, { size: small, pale: true, right: true });
  const decimal = (pennies: number): string => (pennies / 100).toFixed(2);
  const sign = kind === "creditNote" && seed % 3 === 0 ? -1 : 1;
  const shows = (text: string): boolean => facts.some(([, v]) => v === text);
  const toOrder = kind !== "statement" && kind !== "reminder";
  return {
    fileName: c.pick([`${heading} ${number}.pdf`, `scan${seed}.pdf`, `doc-${seed}.pdf`]).replace(/[/\\]/g, "-"),
    sender: isStranger ? null : c.hits(0.7) ? `${supplier.title} <${supplier.fields["email"] ?? ""}>` : null,
    pdf: await pdf.save({ useObjectStreams: false }),
    truth: {
      seed,
      language: hand.language,
      documentType: typeOf[kind],
      company,
      record: isStranger ? null : toOrder && (namesOrder || ofOrder) ? `purchaseOrder:${order.key}` : `supplierAccount:${supplier.key}`,
      // A reminder may as well belong to the invoice it speaks of.
      isClear: isStranger || kind === "statement" || (toOrder && namesOrder),
      fields: {
        documentNumber: number,
        documentDate: date,
        ...(shows(hand.day(due)) && facts.some(([l]) => l === hand.labels.due) ? { dueDate: due } : {}),
        ...(facts.some(([l]) => l === hand.labels.delivery) ? { deliveryDate: delivered } : {}),
        ...(hasMoney && hand.currencyAt !== "none" && !(hand.currencyAt === "label" && (kind === "statement" || kind === "reminder"))
          ? { currency: hand.currency }
          : {}),
        ...(hasMoney ? { total: decimal(sign * total) } : {}),
        ...(hasMoney && hand.shows.tax && toOrder ? { net: decimal(sign * net), tax: decimal(sign * tax) } : {}),
        ...(hasMoney && hand.shows.tax && toOrder && /\d/.test(hand.labels.tax)
          ? { taxAtRate: `${taxRate[hand.language].toFixed(2)} ${decimal(sign * tax)}` }
          : {}),
        ...(namesOrder ? { orderReference: reference } : {}),
        ...(hand.shows.customer ? { customerNumber: customer } : {}),
        iban: iban.replace(/\s/g, ""),
      },
    },
  };
}
