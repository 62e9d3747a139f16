import { readFileSync } from "node:fs";
const c = JSON.parse(readFileSync(`${process.env.DEMO ?? "/tmp/demo"}/credentials.json`, "utf8"));
const truth = JSON.parse(readFileSync("scenario/truth.json", "utf8"));
const key = c.keys.administrator;
const r = await fetch(`${c.url}/api/v1/arrivals?limit=200`, { headers: { Authorization: `Bearer ${key}` } });
const { items } = await r.json();
let top = 0, all = 0, types = 0, sureWrong = 0, sure = 0;
for (const a of items) {
  const t = truth.find((x: any) => x.fileName === a.fileName);
  const s = a.suggestions[0];
  const want = t?.clips[0];
  const got = s ? `${s.type}:${s.key}` : null;
  if (t) { all++; if (got === want) top++; if (a.proposedType?.type === t.documentType) types++; if (s?.verdict === "sure") { sure++; if (got !== want) sureWrong++; } }
  const bad: string[] = [];
  for (const f of ["documentNumber","documentDate","total","currency"]) if (t?.[f]) { const g = a.readings.find((x: any) => x.field === f); if (g?.value !== t[f]) bad.push(`${f}: ${t[f]}≠${g?.value}(${g?.certainty})`); }
  if (got !== want || bad.length || a.proposedType?.type !== t?.documentType) console.log(a.state, a.fileName.padEnd(30), "want", want, "got", got, s?.certainty, s?.verdict, s?.reasons.map((x: any) => x.words).join("; "), "| 2:", a.suggestions[1]?.key, a.suggestions[1]?.certainty, "| none", a.none, "| type", t?.documentType, a.proposedType?.type, a.proposedType?.certainty, "|", bad.join(" "), t?.trouble ?? "");
}
console.log({ top, all, types, sure, sureWrong });
