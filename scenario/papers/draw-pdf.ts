import { PDFDocument, type PDFFont, type PDFPage, rgb, StandardFonts } from "@cantoo/pdf-lib";
import type { Line } from "../world.ts";
import { amountOn, dayOn, type Paper, priceOn } from "./paper.ts";

/** A layout: how one sender's documents look. There are twelve, told apart by number. */
export const LAYOUTS = 12;

const A4: [number, number] = [595.28, 841.89];
const ink = rgb(0.1, 0.12, 0.16);
const grey = rgb(0.45, 0.47, 0.5);
const shade = rgb(0.92, 0.93, 0.95);

interface Style {
  readonly font: StandardFonts;
  readonly bold: StandardFonts;
  readonly size: number;
  readonly margin: number;
  readonly head: "left" | "right" | "centre" | "band";
  readonly table: "ruled" | "plain" | "grid" | "striped";
  readonly refs: "line" | "box" | "column";
  readonly dateStyle: number;
  readonly numberLabel: string;
  readonly dateLabel: string;
  readonly totalLabel: string;
}
const S = StandardFonts;
const styles: readonly Style[] = [
  {
    font: S.Helvetica,
    bold: S.HelveticaBold,
    size: 10,
    margin: 56,
    head: "left",
    table: "ruled",
    refs: "line",
    dateStyle: 0,
    numberLabel: "No.",
    dateLabel: "",
    totalLabel: "Total",
  },
  {
    font: S.TimesRoman,
    bold: S.TimesRomanBold,
    size: 11,
    margin: 64,
    head: "centre",
    table: "plain",
    refs: "column",
    dateStyle: 5,
    numberLabel: "Number",
    dateLabel: "Date",
    totalLabel: "Amount due",
  },
  {
    font: S.Courier,
    bold: S.CourierBold,
    size: 9,
    margin: 48,
    head: "left",
    table: "plain",
    refs: "column",
    dateStyle: 1,
    numberLabel: "DOC NO",
    dateLabel: "DATE",
    totalLabel: "TOTAL",
  },
  {
    font: S.Helvetica,
    bold: S.HelveticaBold,
    size: 9,
    margin: 50,
    head: "band",
    table: "striped",
    refs: "box",
    dateStyle: 2,
    numberLabel: "Document number",
    dateLabel: "Document date",
    totalLabel: "Gross total",
  },
  {
    font: S.TimesRoman,
    bold: S.TimesRomanBold,
    size: 10,
    margin: 70,
    head: "right",
    table: "ruled",
    refs: "line",
    dateStyle: 4,
    numberLabel: "Ref",
    dateLabel: "Dated",
    totalLabel: "To pay",
  },
  {
    font: S.Helvetica,
    bold: S.HelveticaBold,
    size: 10,
    margin: 60,
    head: "right",
    table: "grid",
    refs: "box",
    dateStyle: 3,
    numberLabel: "#",
    dateLabel: "Issued",
    totalLabel: "TOTAL",
  },
  {
    font: S.Helvetica,
    bold: S.HelveticaBold,
    size: 8,
    margin: 40,
    head: "left",
    table: "grid",
    refs: "column",
    dateStyle: 1,
    numberLabel: "Our number",
    dateLabel: "Tax point",
    totalLabel: "Total inc VAT",
  },
  {
    font: S.Courier,
    bold: S.CourierBold,
    size: 10,
    margin: 60,
    head: "centre",
    table: "ruled",
    refs: "line",
    dateStyle: 3,
    numberLabel: "Nr",
    dateLabel: "Date",
    totalLabel: "Balance",
  },
  {
    font: S.TimesRoman,
    bold: S.TimesRomanBold,
    size: 12,
    margin: 76,
    head: "left",
    table: "plain",
    refs: "line",
    dateStyle: 0,
    numberLabel: "Our reference",
    dateLabel: "",
    totalLabel: "Sum",
  },
  {
    font: S.Helvetica,
    bold: S.HelveticaBold,
    size: 11,
    margin: 54,
    head: "band",
    table: "ruled",
    refs: "column",
    dateStyle: 4,
    numberLabel: "Invoice",
    dateLabel: "Of",
    totalLabel: "Total payable",
  },
  {
    font: S.Helvetica,
    bold: S.HelveticaBold,
    size: 9,
    margin: 66,
    head: "centre",
    table: "striped",
    refs: "line",
    dateStyle: 2,
    numberLabel: "No",
    dateLabel: "Date",
    totalLabel: "Total",
  },
  {
    font: S.TimesRoman,
    bold: S.TimesRomanBold,
    size: 10,
    margin: 52,
    head: "right",
    table: "grid",
    refs: "box",
    dateStyle: 5,
    numberLabel: "Number",
    dateLabel: "Date",
    totalLabel: "Total due",
  },
];

/** Draws a document in a layout. The same document and layout give the same bytes. */
export async function drawPdf(paper: Paper, layout: number): Promise<Uint8Array> {
  const style = styles[layout % LAYOUTS] ?? styles[0];
  if (!style) throw new Error("no layout");
  const pdf = await PDFDocument.create();
  const fixed = new Date(`${paper.date}T09:00:00Z`);
  pdf.setCreationDate(fixed);
  pdf.setModificationDate(fixed);
  pdf.setProducer("Merrowick Sound");
  pdf.setTitle(paper.heading);
  const pen = new Pen(pdf, await pdf.embedFont(style.font), await pdf.embedFont(style.bold), style);
  drawHead(pen, paper, style);
  drawReferences(pen, paper, style);
  for (const text of paper.paragraphs ?? []) pen.paragraph(text);
  const money = paper.lines ? paper.lines.map(lineCells) : [];
  if (paper.lines) pen.table([["Description", "Qty", "Price", "Amount"], ...money], style.table);
  if (paper.table) pen.table(paper.table, style.table);
  if (paper.money) drawSums(pen, paper, style);
  pen.footers(
    paper.footer ??
      [
        paper.sender.iban ? `IBAN ${groups(paper.sender.iban)}` : "",
        paper.dueDate ? `due ${dayOn(style.dateStyle, paper.dueDate)}` : "",
        paper.sender.vatNumber ? `VAT ${paper.sender.vatNumber}` : "",
      ]
        .filter(Boolean)
        .join(" · "),
  );
  return pdf.save({ useObjectStreams: false });
}

const groups = (iban: string): string => iban.replace(/(.{4})(?=.)/g, "$1 ");
const lineCells = (l: Line): readonly string[] => [
  l.text,
  `${l.quantity.toLocaleString("en-GB")} ${l.unit === "each" ? "" : l.unit}`.trim(),
  priceOn(l.price),
  amountOn((Math.round(l.quantity * l.price) / 100).toFixed(2)),
];

class Pen {
  page: PDFPage;
  y: number;
  readonly width: number;
  constructor(
    readonly pdf: PDFDocument,
    readonly font: PDFFont,
    readonly bold: PDFFont,
    readonly style: Style,
  ) {
    this.page = pdf.addPage(A4);
    this.y = A4[1] - style.margin;
    this.width = A4[0] - 2 * style.margin;
  }
  text(
    text: string,
    options: { x?: number; size?: number; bold?: boolean; align?: "left" | "right" | "centre"; grey?: boolean; y?: number } = {},
  ): void {
    const size = options.size ?? this.style.size;
    const font = options.bold ? this.bold : this.font;
    const clean = printable(text);
    const width = font.widthOfTextAtSize(clean, size);
    const left = this.style.margin + (options.x ?? 0);
    const x = options.align === "right" ? A4[0] - this.style.margin - width : options.align === "centre" ? (A4[0] - width) / 2 : left;
    this.page.drawText(clean, { x, y: options.y ?? this.y, size, font, color: options.grey ? grey : ink });
  }
  down(by: number): void {
    this.y -= by;
    if (this.y < this.style.margin + 60) {
      this.page = this.pdf.addPage(A4);
      this.y = A4[1] - this.style.margin;
    }
  }
  paragraph(text: string): void {
    const size = this.style.size;
    let line = "";
    for (const word of printable(text).split(" ")) {
      if (this.font.widthOfTextAtSize(`${line} ${word}`, size) > this.width) {
        this.text(line);
        this.down(size * 1.45);
        line = word;
      } else line = line === "" ? word : `${line} ${word}`;
    }
    this.text(line);
    this.down(size * 2.1);
  }
  table(rows: readonly (readonly string[])[], kind: Style["table"]): void {
    const columns = Math.max(...rows.map((r) => r.length));
    const size = this.style.size;
    const step = size * (kind === "plain" ? 1.7 : 2.2);
    const first = columns > 4 ? 0.26 : 0.46;
    const edges = Array.from({ length: columns }, (_, i) => (i === 0 ? 0 : this.width * (first + ((1 - first) * i) / (columns - 1))));
    rows.forEach((row, r) => {
      if (kind === "striped" && r % 2 === 1)
        this.page.drawRectangle({ x: this.style.margin - 4, y: this.y - size * 0.5, width: this.width + 8, height: step, color: shade });
      row.forEach((cell, i) => {
        const font = r === 0 ? this.bold : this.font;
        const right = i > 0;
        const clean = printable(cell);
        this.text(clean, { bold: r === 0, x: right ? (edges[i] ?? 0) - font.widthOfTextAtSize(clean, size) : 0 });
      });
      if ((kind === "ruled" && r === 0) || kind === "grid")
        this.page.drawLine({
          start: { x: this.style.margin - 4, y: this.y - size * 0.6 },
          end: { x: A4[0] - this.style.margin + 4, y: this.y - size * 0.6 },
          thickness: kind === "grid" ? 0.4 : 0.9,
          color: kind === "grid" ? grey : ink,
        });
      this.down(step);
    });
    this.down(size);
  }
  footers(text: string): void {
    const pages = this.pdf.getPages();
    pages.forEach((page, i) => {
      this.page = page;
      this.text(text, { y: this.style.margin - 14, size: Math.max(7, this.style.size - 2), grey: true });
      if (pages.length > 1)
        this.text(`page ${i + 1} of ${pages.length}`, {
          y: this.style.margin - 14,
          size: Math.max(7, this.style.size - 2),
          grey: true,
          align: "right",
        });
    });
  }
}

function drawHead(pen: Pen, paper: Paper, style: Style): void {
  const big = style.size + 6;
  if (style.head === "band") {
    pen.page.drawRectangle({ x: 0, y: A4[1] - 86, width: A4[0], height: 86, color: rgb(0.16, 0.3, 0.36) });
    pen.page.drawText(printable(paper.sender.name), { x: style.margin, y: A4[1] - 50, size: big + 2, font: pen.bold, color: rgb(1, 1, 1) });
    pen.y = A4[1] - 110;
    pen.text(paper.sender.address, { grey: true });
  } else {
    const align = style.head === "centre" ? "centre" : style.head === "right" ? "right" : "left";
    pen.text(paper.sender.name, { bold: true, size: big, align });
    pen.down(big + 2);
    pen.text(paper.sender.address, { align, grey: true });
  }
  pen.down(style.size * 1.4);
  if (paper.sender.email)
    pen.text(paper.sender.email, { align: style.head === "centre" ? "centre" : style.head === "right" ? "right" : "left", grey: true });
  pen.down(style.size * 3.2);
  const top = pen.y;
  pen.text(paper.recipient.name);
  pen.down(style.size * 1.4);
  pen.text(paper.recipient.address);
  const head = style.head === "right" ? "left" : "right";
  pen.text(paper.heading.toUpperCase(), {
    y: top + (head === "left" ? -style.size * 4 : 0),
    bold: true,
    size: style.size + 4,
    align: head === "left" ? "left" : "right",
  });
  if (paper.number) pen.text(`${style.numberLabel} ${paper.number}`, { y: top - style.size * (head === "left" ? 5.6 : 1.6), align: head });
  pen.text(`${style.dateLabel} ${dayOn(style.dateStyle, paper.date)}`.trim(), {
    y: top - style.size * (head === "left" ? 7.1 : 3.1),
    align: head,
  });
  pen.down(style.size * (head === "left" ? 8.4 : 4));
}

function drawReferences(pen: Pen, paper: Paper, style: Style): void {
  if (paper.references.length === 0) return;
  if (style.refs === "line") {
    let line = "";
    for (const [label, value] of paper.references) {
      const piece = `${label}: ${written(value, style)}`;
      if (pen.font.widthOfTextAtSize(`${line}   ${piece}`, style.size) > pen.width) {
        pen.text(line);
        pen.down(style.size * 1.5);
        line = piece;
      } else line = line === "" ? piece : `${line}   ${piece}`;
    }
    pen.text(line);
    pen.down(style.size * 2.6);
    return;
  }
  if (style.refs === "box") {
    const height = style.size * 1.6 * paper.references.length + 10;
    pen.page.drawRectangle({
      x: style.margin - 6,
      y: pen.y - height + style.size * 1.2,
      width: pen.width * 0.62,
      height,
      borderColor: grey,
      borderWidth: 0.8,
    });
  }
  for (const [label, value] of paper.references) {
    pen.text(label, { grey: true });
    pen.text(written(value, style), { x: pen.width * 0.24, bold: style.refs === "box" });
    pen.down(style.size * 1.6);
  }
  pen.down(style.size * 1.8);
}

/** Days among the references are written as this sender writes days. */
function written(value: string, style: Style): string {
  return /^\d{4}-\d{2}-\d{2}$/.test(value) ? dayOn(style.dateStyle, value) : value;
}

function drawSums(pen: Pen, paper: Paper, style: Style): void {
  const money = paper.money;
  if (!money) return;
  for (const [label, value, bold] of [
    ["Net", money.net, false],
    ["VAT 20 %", money.tax, false],
    [style.totalLabel, money.total, true],
  ] as const) {
    pen.text(bold ? `${money.currency} ${amountOn(value)}` : amountOn(value), { align: "right", bold });
    pen.text(label, { x: pen.width * 0.62, bold });
    pen.down(style.size * 1.9);
  }
}

/** Standard fonts hold Western letters only; anything else would throw. */
function printable(text: string): string {
  return text.replace(/–|—/g, "-").replace(/[^\u0020-\u00ff]/g, "?");
}
