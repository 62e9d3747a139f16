import fc from "fast-check";
import { BAG_DECLARATION, bagInfo, checkBag, type FoundFile, manifestOf, oxumOf, parseManifest } from "./bag.ts";
import { drawSample } from "./sample.ts";

const hash = (n: number): string => n.toString(16).padStart(64, "0");
const file = (path: string, n: number, text: string | null = null): FoundFile => ({ path, sha256: hash(n), sizeBytes: n, text });

/** A bag as it is made: two documents and an index that names them. */
function bag(): FoundFile[] {
  const papers = [file("data/papers/AC-000001 List.pdf", 1), file("data/papers/100 % wool.pdf", 2)];
  const index = file(
    "data/index.json",
    3,
    JSON.stringify({ papers: papers.map((p) => ({ file: p.path.slice("data/".length), sha256: p.sha256 })) }),
  );
  const payload = [...papers, index];
  const tags = [
    file("bagit.txt", 10, BAG_DECLARATION),
    file("bag-info.txt", 11, bagInfo({ "Payload-Oxum": oxumOf(payload) })),
    file("manifest-sha256.txt", 12, manifestOf(payload)),
  ];
  return [...payload, ...tags, file("tagmanifest-sha256.txt", 13, manifestOf(tags))];
}

describe("A bag", () => {
  test("that is as it was made has no fault", () => expect(checkBag(bag())).toEqual([]));
  const changes: readonly (readonly [string, (files: FoundFile[]) => FoundFile[], string])[] = [
    ["a document altered", (f) => f.map((x) => (x.path.endsWith("List.pdf") ? { ...x, sha256: hash(99) } : x)), "altered"],
    ["a document lost", (f) => f.filter((x) => !x.path.endsWith("List.pdf")), "lost"],
    ["a document added", (f) => [...f, file("data/papers/more.pdf", 5)], "added"],
    ["its manifest altered", (f) => f.map((x) => (x.path === "manifest-sha256.txt" ? { ...x, sha256: hash(98) } : x)), "altered"],
    ["its manifest gone", (f) => f.filter((x) => x.path !== "manifest-sha256.txt"), "no-manifest"],
    ["a manifest that is none", (f) => f.map((x) => (x.path === "manifest-sha256.txt" ? { ...x, text: "hello" } : x)), "bad-manifest"],
    ["no declaration", (f) => f.filter((x) => x.path !== "bagit.txt"), "no-declaration"],
    [
      "a manifest that points out of it",
      (f) => f.map((x) => (x.path === "manifest-sha256.txt" ? { ...x, text: `${x.text ?? ""}${hash(1)}  data/../../etc/passwd\n` } : x)),
      "bad-path",
    ],
    [
      "an index that tells of other documents",
      (f) => f.map((x) => (x.path === "data/index.json" ? { ...x, text: `{"papers":[{"file":"papers/x","sha256":"y"}]}` } : x)),
      "index",
    ],
    ["an index that cannot be read", (f) => f.map((x) => (x.path === "data/index.json" ? { ...x, text: "{" } : x)), "index"],
    ["another count of bytes", (f) => f.map((x) => (x.path === "bag-info.txt" ? { ...x, text: "Payload-Oxum: 1.1\n" } : x)), "oxum"],
  ];
  test.each(changes)("with %s is found out", (_, change, code) => expect(checkBag(change(bag())).map((f) => f.code)).toContain(code));

  test("names every path so that it can be read again", () =>
    fc.assert(
      fc.property(fc.array(fc.string({ minLength: 1, unit: "grapheme" }).map((s) => `data/${s.replaceAll("\0", "")}x`)), (paths) => {
        const files = paths.map((path, i) => ({ path: path.replace(/\s+x$/, "x"), sha256: hash(i) }));
        expect(parseManifest(manifestOf(files))).toEqual(files);
      }),
    ));
});

describe("A sample", () => {
  const list = Array.from({ length: 200 }, (_, i) => i);
  test("is the same for the same seed, of the size that was asked, in the order of the list", () =>
    fc.assert(
      fc.property(fc.nat(300), fc.nat(), (n, seed) => {
        const drawn = drawSample(list, n, seed);
        expect(drawn).toEqual(drawSample(list, n, seed));
        expect(drawn).toHaveLength(Math.min(n, list.length));
        expect([...drawn].sort((a, b) => a - b)).toEqual(drawn);
        expect(new Set(drawn).size).toBe(drawn.length);
      }),
    ));
  test("draws each about equally often", () => {
    const times = new Array<number>(50).fill(0);
    for (let seed = 0; seed < 4000; seed++) for (const i of drawSample(list.slice(0, 50), 5, seed)) times[i] = (times[i] ?? 0) + 1;
    for (const n of times) expect(Math.abs(n - 400)).toBeLessThan(100);
  });
});
