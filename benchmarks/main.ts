import { parseArgs } from "node:util";
import pg from "pg";
import { benchAnswers } from "./answers.ts";
import { callAs } from "./call.ts";
import { benchFiling } from "./filing.ts";
import { fillMany } from "./fill-many.ts";
import { benchIntake } from "./intake.ts";
import { benchMail } from "./mail.ts";
import { benchNextPaper } from "./next-paper.ts";
import { benchAlike, benchPages, pageParts } from "./pages.ts";
import { isTiny, sized } from "./measure.ts";
import { withThrowaway } from "./throwaway.ts";
import { benchSuggest } from "./suggest.ts";
import { benchRecordPapers } from "./record-papers.ts";
import { benchRepository } from "./repository.ts";

const { values } = parseArgs({
  options: {
    documents: { type: "string", default: String(sized(100_000, 400)) },
    files: { type: "string", default: String(sized(300, 6)) },
    records: { type: "string", default: String(sized(500_000, 2_000)) },
    only: { type: "string" },
    tiny: { type: "boolean", default: false },
  },
});
const wanted = (name: string): boolean => values.only === undefined || values.only === name;
await withThrowaway("bench", async (instance, folder) => {
  const client = new pg.Client({ connectionString: instance.databaseUrl });
  try {
    await client.connect();
    const call = await callAs(folder, instance.url);
    if (wanted("answers")) await benchAnswers(call, client, "demo");
    if (wanted("mail")) await benchMail(client, instance.mail);
    if (wanted("repository")) await benchRepository(call, client, folder, instance.standIns, Number(values.documents));
    if (wanted("next")) await benchNextPaper(call, folder, instance.url);
    if (wanted("pages") || pageParts.some(wanted))
      await benchPages(call, client, folder, instance.url, (part) => wanted("pages") || wanted(part));
    if (wanted("suggest")) await benchSuggest(client, folder, Number(values.records));
    if (values.only === "records" || isTiny) await benchRecordPapers(call, client, Number(values.records), Number(values.documents));
    if (wanted("near")) await benchAlike(client, Number(values.documents));
    if (wanted("intake") || wanted("filing")) {
      const arrivals = await benchIntake(call, folder, Number(values.files));
      if (wanted("filing")) await benchFiling(call, arrivals);
    }
    if (wanted("answers")) {
      console.error(`Making ${values.documents} documents`);
      await fillMany(client, Number(values.documents));
      await benchAnswers(call, client, `${values.documents} documents`);
    }
  } finally {
    await client.end();
  }
});
process.exit(0);
