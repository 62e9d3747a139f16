import { readFile } from "node:fs/promises";
import { badFiles } from "#scenario/bad-files.ts";
const cred = JSON.parse(await readFile("/tmp/demo/credentials.json", "utf8"));
const h = { authorization: `Bearer ${cred.keys.administrator}` };
const began = Date.now();
const sent = await Promise.all((await badFiles()).map(async (bad) => {
  const f = new FormData(); f.set("file", new Blob([bad.bytes]), bad.name);
  const a = await fetch(`${cred.url}/api/v1/arrivals`, { method: "POST", headers: h, body: f });
  return { name: bad.name, id: (await a.json()).id };
}));
const left = new Set(sent);
while (left.size && Date.now() - began < 150000) {
  for (const s of left) { const a = await (await fetch(`${cred.url}/api/v1/arrivals/${s.id}`, { headers: h })).json(); if (/ready|failed/.test(a.state)) { console.log(((Date.now() - began) / 1000).toFixed(1), s.name, a.state); left.delete(s); } }
  await new Promise((r) => setTimeout(r, 200));
}
