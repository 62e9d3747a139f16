import { PDFDocument, StandardFonts } from "@cantoo/pdf-lib";

/** A PDF with a page for each text, long enough to count as having words of its own. Only for tests. */
export async function makePaper(...texts: readonly string[]): Promise<Uint8Array> {
  const pdf = await PDFDocument.create();
  const font = await pdf.embedFont(StandardFonts.Helvetica);
  for (const [i, text] of texts.entries()) {
    const page = pdf.addPage([595, 842]);
    `${text}\nthis page has words enough of its own ${i}`
      .split("\n")
      .forEach((line, n) => page.drawText(line, { x: 60, y: 780 - n * 20, size: 12, font }));
  }
  return pdf.save();
}
