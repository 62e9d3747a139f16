import { Readable } from "node:stream";
import { stringify } from "csv-stringify";

/** Whether a request would rather have a list as CSV. */
export function wantsCsv(request: Request): boolean {
  return (request.headers.get("accept") ?? "").includes("text/csv");
}

/** Rows as CSV, streamed as they come. A value that a spreadsheet would run as a formula is written as text. */
export function csvOf(fileName: string, columns: readonly string[], rows: AsyncIterable<Readonly<Record<string, unknown>>>): Response {
  const out = stringify({ header: true, columns: [...columns], escape_formulas: true });
  Readable.from(rows)
    .on("error", (error) => out.destroy(error))
    .pipe(out);
  return new Response(Readable.toWeb(out) as ReadableStream, {
    headers: {
      "content-type": "text/csv; charset=utf-8",
      "content-disposition": `attachment; filename="${fileName}"`,
      "cache-control": "no-store",
    },
  });
}
