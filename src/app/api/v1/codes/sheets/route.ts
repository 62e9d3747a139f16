import { door, problem } from "#server/api/door.ts";
import { printSheets } from "#server/codes/print-sheets.ts";

export const POST = door("sheets", async ({ actor, body }) => {
  const made = await printSheets(actor, body);
  if (!made.ok) return problem(made.refusal);
  const name = { coverSheet: "cover-sheets.pdf", label: "labels.pdf", separator: "separator-sheets.pdf" }[body.kind];
  return new Response(new Uint8Array(made.value), {
    headers: {
      "content-type": "application/pdf",
      "content-disposition": `attachment; filename="${name}"`,
      "x-content-type-options": "nosniff",
    },
  });
});
