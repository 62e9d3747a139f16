import { Readable } from "node:stream";
import { createReadStream } from "node:fs";
import { readFile, stat } from "node:fs/promises";
import { z } from "zod";
import { parseSha256 } from "#core/shared/brand.ts";
import { localFile } from "../documents/local-file.ts";
import { systemCode } from "../ports/system-code.ts";
import { loadBody, loadKind, loadView, loadWords } from "../reading/load-view.ts";
import { pagePicture, pagePicturePng } from "../reading/page-picture.ts";
import { problem } from "./door.ts";

/** Kinds a browser may show by itself from our address: pictures only. Everything else is a download and runs nothing. */
const inlineTypes = new Set(["image/jpeg", "image/png", "image/webp", "image/gif"]);

/** Headers under which outside content leaves: it never runs in our origin. */
export const shut = {
  "x-content-type-options": "nosniff",
  "content-security-policy": "default-src 'none'; sandbox",
  "cache-control": "private, no-cache",
  "cross-origin-resource-policy": "same-origin",
};

/** Serves kept bytes with ETag and ranges. The caller has made sure that the person may see them. */
export async function serveContent(request: Request, sha256Text: string, fileName: string, download: boolean): Promise<Response> {
  const sha256 = parseSha256(sha256Text);
  const about = await loadKind(sha256);
  let file: string;
  let size: number;
  try {
    file = await localFile(sha256);
    size = (await stat(file)).size;
  } catch (error) {
    return problem(
      systemCode(error)?.startsWith("repository-")
        ? { code: "repository-away" }
        : { code: "unavailable", detail: "The kept bytes cannot be read now." },
    );
  }
  if (!about) return problem({ code: "unavailable" });
  const etag = `"${sha256}"`;
  if (request.headers.get("if-none-match")?.split(/,\s*/).includes(etag)) return new Response(null, { status: 304, headers: { etag } });
  const type = about.mediaType ?? "application/octet-stream";
  const headers: Record<string, string> = {
    ...shut,
    etag,
    "accept-ranges": "bytes",
    "content-type": type,
    "content-disposition": disposition(!download && inlineTypes.has(type) ? "inline" : "attachment", fileName),
  };
  const ifRange = request.headers.get("if-range");
  const range = ifRange === null || ifRange === etag ? parseRange(request.headers.get("range"), size) : null;
  if (range === "unsatisfiable") return new Response(null, { status: 416, headers: { "content-range": `bytes */${size}` } });
  const body = size === 0 ? null : (Readable.toWeb(createReadStream(file, range ?? undefined)) as ReadableStream);
  if (range)
    return new Response(body, {
      status: 206,
      headers: {
        ...headers,
        "content-range": `bytes ${range.start}-${range.end}/${size}`,
        "content-length": String(range.end - range.start + 1),
      },
    });
  return new Response(body, { headers: { ...headers, "content-length": String(size) } });
}

/** A content-disposition with a name in any script. */
export const disposition = (how: "inline" | "attachment", name: string): string =>
  `${how}; filename*=UTF-8''${encodeURIComponent(name).replace(/['()*]/g, (c) => `%${c.charCodeAt(0).toString(16).toUpperCase()}`)}`;

/** One byte range of a Range header; null when there is none (or several: then all is served, as the standard allows). */
export function parseRange(header: string | null, size: number): { readonly start: number; readonly end: number } | "unsatisfiable" | null {
  const parts = /^bytes=(\d{0,15})-(\d{0,15})$/.exec(header ?? "");
  if (!parts || (parts[1] === "" && parts[2] === "")) return null;
  const start = parts[1] === "" ? Math.max(0, size - Number(parts[2])) : Number(parts[1]);
  const end = parts[1] === "" || parts[2] === "" ? size - 1 : Math.min(Number(parts[2]), size - 1);
  return start >= size || start > end ? "unsatisfiable" : { start, end };
}

/**
 * Serves a page as `{n}.png`, `{n}.jpg` or `{n}.words`. A picture whose address names its content (`of`) may be kept by the browser for good; any other is asked for
 * again each time, since a new version has other pages at the same address. Words are always asked for again: OCR adds them later.
 */
export async function servePage(
  request: Request,
  sha256Text: string,
  page: string,
  { width, of }: { readonly width: number; readonly of?: string | undefined },
): Promise<Response> {
  const sha256 = parseSha256(sha256Text);
  const parts = z.tuple([z.coerce.number().int().min(1).max(100_000), z.enum(["png", "jpg", "words"])]).safeParse(page.split("."));
  if (!parts.success) return problem({ code: "not-found" });
  const [number, ending] = parts.data;
  if (ending === "words")
    return Response.json({ words: await loadWords(sha256, number) }, { headers: { "cache-control": "private, no-cache" } });
  const etag = `"${sha256}-${number}-${width}-${ending}"`;
  const isNamed = of !== undefined && sha256.startsWith(of);
  const headers = { ...shut, etag, "cache-control": isNamed ? "private, max-age=31536000, immutable" : "private, no-cache" };
  if (request.headers.get("if-none-match") === etag) return new Response(null, { status: 304, headers });
  const kind = (await loadKind(sha256))?.kind ?? null;
  if (ending === "png") {
    const made = await pagePicturePng(sha256, kind, number, width);
    return made.ok
      ? new Response(new Uint8Array(made.value), { headers: { ...headers, "content-type": "image/png" } })
      : problem(made.refusal);
  }
  const made = await pagePicture(sha256, kind, number, width);
  return made.ok
    ? new Response(new Uint8Array(await readFile(made.value)), { headers: { ...headers, "content-type": "image/jpeg" } })
    : problem(made.refusal);
}

/** Serves a content's text as plain text. */
export async function serveText(sha256: string): Promise<Response> {
  const body = await loadBody(sha256);
  return body === null
    ? problem({ code: "not-readable" })
    : new Response(body, { headers: { ...shut, "content-type": "text/plain; charset=utf-8" } });
}

/** Serves what a viewer shows a content from. */
export async function serveView(sha256: string): Promise<Response> {
  const view = await loadView(sha256);
  return view ? Response.json(view, { headers: { "cache-control": "no-store" } }) : problem({ code: "not-found" });
}
