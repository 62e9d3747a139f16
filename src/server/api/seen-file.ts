import { parseArrivalId, parseDocumentCode } from "#core/shared/brand.ts";
import { loadArrivalFile } from "../arrivals/list-arrivals.ts";
import { loadDocumentFile } from "../documents/load-document.ts";
import type { Actor } from "../people/load-actor.ts";
import { problem } from "./door.ts";

/** The bytes behind an arrival, if the person may see it. */
export async function arrivalFile(actor: Actor, idText: string): Promise<{ readonly sha256: string; readonly fileName: string } | null> {
  const id = parseArrivalId(idText);
  return id ? loadArrivalFile(actor, id) : null;
}

/** The bytes behind a document, if the person may see it: of a version, of the content that `of` begins the hash of, else the current ones. */
export async function documentFile(
  actor: Actor,
  codeText: string,
  which: { readonly version?: number | undefined; readonly of?: string | undefined } = {},
): Promise<{ readonly sha256: string; readonly fileName: string } | null> {
  const code = parseDocumentCode(codeText);
  return code ? loadDocumentFile(actor, code, which) : null;
}

/** Serves something of a file, or says that there is nothing here. */
export async function serveSeen(
  file: { readonly sha256: string; readonly fileName: string } | null,
  serve: (file: { readonly sha256: string; readonly fileName: string }) => Promise<Response>,
): Promise<Response> {
  return file ? serve(file) : problem({ code: "not-found" });
}
