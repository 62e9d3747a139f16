/** The text files of a bag (RFC 8493): a folder whose manifest proves that nothing was altered, added or lost. */
export const BAG_DECLARATION = "BagIt-Version: 1.0\nTag-File-Character-Encoding: UTF-8\n";

/** A file of a bag with its hash; the path is within the bag, with forward slashes. */
export interface BagFile {
  readonly path: string;
  readonly sha256: string;
  readonly sizeBytes: number;
}

/** bag-info.txt: what is told of the bag as a whole. Values on one line each; a line break in one would begin another. */
export function bagInfo(values: Readonly<Record<string, string>>): string {
  return Object.entries(values)
    .map(([name, value]) => `${name}: ${value.replace(/[\r\n]+/g, " ").trim()}\n`)
    .join("");
}

/** Payload-Oxum: bytes and files of the payload, told in bag-info.txt. */
export const oxumOf = (files: readonly BagFile[]): string => `${files.reduce((sum, f) => sum + f.sizeBytes, 0)}.${files.length}`;

/** A manifest: a line of hash and path for each file. Line breaks and percent signs in paths are escaped, as the standard says. */
export function manifestOf(files: readonly Pick<BagFile, "path" | "sha256">[]): string {
  return files.map((f) => `${f.sha256}  ${escapePath(f.path)}\n`).join("");
}

const escapePath = (path: string): string => path.replaceAll("%", "%25").replaceAll("\n", "%0A").replaceAll("\r", "%0D");
const unescapePath = (path: string): string => path.replace(/%0A/gi, "\n").replace(/%0D/gi, "\r").replace(/%25/g, "%");

/** Reads a manifest; null for a line that is none. */
export function parseManifest(text: string): readonly Pick<BagFile, "path" | "sha256">[] | null {
  const files = [];
  for (const line of text.split("\n")) {
    if (line.trim() === "") continue;
    const parts = /^([0-9a-fA-F]{64})[ \t]+\*?(\S.*?)\r?$/s.exec(line);
    if (!parts) return null;
    files.push({ sha256: (parts[1] ?? "").toLowerCase(), path: unescapePath(parts[2] ?? "") });
  }
  return files;
}

/** What is wrong with a bag. */
export interface BagFault {
  readonly code: "no-declaration" | "no-manifest" | "bad-manifest" | "altered" | "lost" | "added" | "bad-path" | "oxum" | "index";
  readonly path: string;
}

/** A file as it was found in a bag. */
export interface FoundFile extends BagFile {
  /** The text of tag files and of the index; null for documents. */
  readonly text: string | null;
}

/**
 * Compares a bag with what its own manifests say: everything named is there with its hash, nothing is there that is not named, the counts agree, and
 * the index tells of the documents that are there. Pure: whoever calls has hashed the files. No fault: the bag is as it was made.
 */
export function checkBag(found: readonly FoundFile[]): readonly BagFault[] {
  const faults: BagFault[] = [];
  const byPath = new Map(found.map((f) => [f.path, f]));
  const textOf = (path: string): string | null => byPath.get(path)?.text ?? null;
  if (!/^BagIt-Version: \d+\.\d+\r?\nTag-File-Character-Encoding: UTF-8/.test(textOf("bagit.txt") ?? ""))
    faults.push({ code: "no-declaration", path: "bagit.txt" });
  const check = (manifest: string, isOurs: (path: string) => boolean): void => {
    const text = textOf(manifest);
    if (text === null) return void faults.push({ code: "no-manifest", path: manifest });
    const named = parseManifest(text);
    if (named === null) return void faults.push({ code: "bad-manifest", path: manifest });
    const paths = new Set<string>();
    for (const { path, sha256 } of named) {
      paths.add(path);
      if (path.startsWith("/") || path.split("/").includes("..") || !isOurs(path)) faults.push({ code: "bad-path", path });
      const file = byPath.get(path);
      if (!file) faults.push({ code: "lost", path });
      else if (file.sha256 !== sha256) faults.push({ code: "altered", path });
    }
    for (const f of found) if (isOurs(f.path) && !paths.has(f.path)) faults.push({ code: "added", path: f.path });
  };
  check("manifest-sha256.txt", (path) => path.startsWith("data/"));
  check("tagmanifest-sha256.txt", (path) => !path.startsWith("data/") && path !== "tagmanifest-sha256.txt");
  const oxum = /^Payload-Oxum: (\d+\.\d+)\r?$/m.exec(textOf("bag-info.txt") ?? "")?.[1];
  if (oxum !== undefined && oxum !== oxumOf(found.filter((f) => f.path.startsWith("data/"))))
    faults.push({ code: "oxum", path: "bag-info.txt" });
  for (const path of papersOfIndex(textOf("data/index.json")))
    if (byPath.get(`data/${path.path}`)?.sha256 !== path.sha256) faults.push({ code: "index", path: path.path });
  return faults;
}

/** The documents that a pack's index names, with their hashes; none when it has no index that can be read. */
function papersOfIndex(text: string | null): readonly { readonly path: string; readonly sha256: string }[] {
  if (text === null) return [];
  try {
    const index: unknown = JSON.parse(text);
    const papers =
      typeof index === "object" && index !== null && "papers" in index && Array.isArray(index.papers) ? (index.papers as unknown[]) : [];
    return papers.flatMap((p) => {
      const is = (v: unknown): v is Record<string, unknown> => typeof v === "object" && v !== null;
      return is(p) && typeof p["file"] === "string" && typeof p["sha256"] === "string" ? [{ path: p["file"], sha256: p["sha256"] }] : [];
    });
  } catch {
    return [{ path: "index.json", sha256: "cannot be read" }];
  }
}
