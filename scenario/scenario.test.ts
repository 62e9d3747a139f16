import { readFile } from "node:fs/promises";
import path from "node:path";
import { detectKind } from "#server/reading/detect-kind.ts";
import { mkdtemp, rm, writeFile } from "node:fs/promises";
import os from "node:os";
import { waitingPapers } from "./papers/waiting-papers.ts";
import { filedPapers } from "./papers/filed-papers.ts";
import { truthOfWaiting, truthText } from "./truth.ts";
import { makeWorld } from "./world.ts";

const world = makeWorld();

describe("The demo world", () => {
  test("is the same every time", () => expect(JSON.stringify(makeWorld().records)).toBe(JSON.stringify(world.records)));
  test("has about 3,000 records of every type in both companies, each key once", () => {
    expect(world.records.length).toBeGreaterThan(2700);
    expect(world.records.length).toBeLessThan(3400);
    const keys = world.records.map((r) => `${r.company}/${r.type}/${r.key}`);
    expect(new Set(keys).size).toBe(keys.length);
    expect(new Set(world.records.map((r) => r.company))).toEqual(new Set(["MF", "QS"]));
    expect(new Set(world.records.map((r) => r.type)).size).toBe(21);
  });
  test("points only at records that are there", () => {
    for (const r of world.records) {
      if (r.parent) expect(() => world.get(r.company, r.parent?.type ?? "", r.parent?.key ?? "")).not.toThrow();
      for (const f of r.follows ?? []) expect(() => world.get(r.company, f.type, f.key)).not.toThrow();
    }
  });
  test("has 700 documents filed, over all record kinds", () => {
    const papers = filedPapers(world);
    expect(papers.length).toBeGreaterThanOrEqual(700);
    expect(new Set(papers.map((p) => p.documentType)).size).toBeGreaterThan(14);
  });
});

describe("The documents that wait", () => {
  const papers = waitingPapers(world);
  test("are sixty, each with its own name, and the truth of each stands in truth.json", async () => {
    expect(papers).toHaveLength(60);
    expect(new Set(papers.map((p) => p.fileName)).size).toBe(60);
    expect(await readFile(path.join(import.meta.dirname, "truth.json"), "utf8")).toBe(truthText());
  });
  test("have their trouble on purpose, and clips that are there", () => {
    const truth = truthOfWaiting();
    expect(truth.filter((t) => t.trouble).length).toBeGreaterThan(8);
    for (const t of truth)
      for (const clip of t.clips) {
        const [type = "", key = ""] = clip.split(":");
        expect(() => world.get(t.company as "MF" | "QS", type, key)).not.toThrow();
      }
  });
  test("come in every kind that people send", async () => {
    const folder = await mkdtemp(path.join(os.tmpdir(), "amber-scenario-"));
    try {
      const kinds = new Set<string>();
      const one = new Map(papers.map((p) => [path.extname(p.fileName) + p.source, p]));
      for (const paper of one.values()) {
        const file = path.join(folder, "paper");
        await writeFile(file, await paper.make());
        kinds.add(await detectKind(file, paper.fileName));
      }
      expect([...kinds].sort()).toEqual(["csv", "docx", "jpeg", "mail", "pdf", "text", "tiff", "xlsx", "xml"]);
    } finally {
      await rm(folder, { recursive: true, force: true });
    }
  });
});
