import { PDFDocument, StandardFonts } from "@cantoo/pdf-lib";

/** A PDF that is not one of the demo's: a page for each list of lines. */
export async function makePdf(...pages: readonly (readonly string[])[]): Promise<Buffer> {
  const pdf = await PDFDocument.create();
  const font = await pdf.embedFont(StandardFonts.Helvetica);
  for (const lines of pages) {
    const page = pdf.addPage([595, 842]);
    lines.forEach((line, i) => page.drawText(line, { x: 60, y: 770 - i * 22, size: 12, font }));
  }
  return Buffer.from(await pdf.save());
}

/** A file as Playwright hands it to a page. */
export const pdfFile = async (name: string, ...pages: readonly (readonly string[])[]) => ({
  name,
  mimeType: "application/pdf",
  buffer: await makePdf(...pages),
});
