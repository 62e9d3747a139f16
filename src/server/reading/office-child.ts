/** Its own process: reads one docx or xlsx and prints JSON; with "check" it only looks how much there is to unpack. Exit 3: larger unpacked than allowed; any other failure: broken. */
import ExcelJS from "exceljs";
import mammoth from "mammoth";
import yauzl from "yauzl";
import { ROWS_MAX } from "./read-outcome.ts";
import { tableSheet } from "./read-plain.ts";

/** Bytes an office file may unpack to. */
const UNPACKED_MAX = 400 * 1024 * 1024;
/** Parts an office file may have. */
const ENTRIES_MAX = 10_000;

const [kind, file] = process.argv.slice(2);
if (kind === undefined || file === undefined) process.exit(2);
if ((await unpackedSize(file)) > UNPACKED_MAX) process.exit(3);

if (kind === "check") print({});
else if (kind === "docx") {
  const { value } = await mammoth.extractRawText({ path: file });
  print({ text: value.replace(/\n{3,}/g, "\n\n"), sheets: null });
} else {
  const book = new ExcelJS.Workbook();
  await book.xlsx.readFile(file);
  const sheets = book.worksheets.slice(0, 50).map((sheet) => {
    const rows: string[][] = [];
    sheet.eachRow({ includeEmpty: false }, (row) => {
      if (rows.length > ROWS_MAX) return;
      const cells: string[] = [];
      row.eachCell({ includeEmpty: true }, (cell) => cells.push(cellText(cell)));
      rows.push(cells);
    });
    return tableSheet(sheet.name, rows);
  });
  print({ text: sheets.map((s) => [s.name, ...s.rows.map((r) => r.join("\t"))].join("\n")).join("\n\n"), sheets });
}

function cellText(cell: ExcelJS.Cell): string {
  const value = cell.value;
  if (value instanceof Date) return value.toISOString().slice(0, 10);
  return cell.text;
}

function print(answer: unknown): void {
  process.stdout.write(JSON.stringify(answer));
}

function unpackedSize(path: string): Promise<number> {
  return new Promise((resolve, reject) => {
    yauzl.open(path, { lazyEntries: true }, (error, zip) => {
      if (error) return reject(error);
      let size = 0;
      let entries = 0;
      zip.on("entry", (entry: yauzl.Entry) => {
        size += entry.uncompressedSize;
        entries++;
        if (size > UNPACKED_MAX || entries > ENTRIES_MAX) resolve(Infinity);
        else zip.readEntry();
      });
      zip.on("end", () => resolve(size));
      zip.on("error", reject);
      zip.readEntry();
    });
  });
}
