import { Readable } from "node:stream";
import { setTimeout } from "node:timers/promises";
import busboy from "busboy";
import { refuse, type Result } from "#core/shared/result.ts";
import { landFile, takeIn, type TakenIn } from "../arrivals/receive.ts";
import type { Actor } from "../people/load-actor.ts";
import type { Landed } from "../ports/landing-store.ts";
import { IDEMPOTENCY_KEY_MAX } from "./door.ts";

/** Characters of one text part. */
const FIELD_MAX = 2000;
/** Longest wait until a half is cleared away, ms; what is left then is cleared by the worker. */
const CLEARING_MS = 3000;
const sources = new Set(["drop", "api", "mail", "scanner", "folder", "phone"]);

/**
 * Takes one uploaded file in: the parts stream, the file is hashed and kept on the way, and only when the whole form has come and the
 * bytes are safe is it entered. A form that ends early leaves nothing.
 */
export async function receiveUpload(actor: Actor, request: Request): Promise<Result<TakenIn>> {
  const contentType = request.headers.get("content-type") ?? "";
  const key = request.headers.get("idempotency-key") ?? undefined;
  if (key !== undefined && key.length > IDEMPOTENCY_KEY_MAX)
    return refuse("bad-input", undefined, [{ path: "Idempotency-Key", message: "is too long" }]);
  if (!contentType.startsWith("multipart/form-data") || !request.body) return refuse("no-file");
  const fields = new Map<string, string>();
  const form = await readForm(request, contentType, fields);
  if (!form.ok) return form;
  const { landed, fileName } = form.value;
  const text = (name: string): string | undefined => (fields.get(name)?.trim() ? fields.get(name)?.trim() : undefined);
  const source = text("source");
  return takeIn(actor, landed, {
    fileName,
    queue: text("queue") ?? "",
    company: text("company"),
    source: source !== undefined && sources.has(source) ? source : "api",
    sender: text("sender"),
    note: text("note"),
    record: text("record"),
    documentType: text("documentType"),
    idempotencyKey: key,
  });
}

function readForm(
  request: Request,
  contentType: string,
  fields: Map<string, string>,
): Promise<Result<{ landed: Landed; fileName: string }>> {
  return new Promise((resolve) => {
    let parser: busboy.Busboy;
    try {
      parser = busboy({
        headers: { "content-type": contentType },
        defParamCharset: "utf8",
        limits: { files: 1, fields: 20, fieldSize: FIELD_MAX, parts: 30 },
      });
    } catch {
      resolve(refuse("no-file"));
      return;
    }
    const body = Readable.fromWeb(request.body as import("node:stream/web").ReadableStream);
    let file: Promise<Result<Landed>> | null = null;
    let fileName = "";
    let settled = false;
    const settle = (result: Result<{ landed: Landed; fileName: string }>): void => {
      if (settled) return;
      settled = true;
      resolve(result);
      body.unpipe(parser);
      // What is still coming is read off and thrown away, so that the sender hears the answer.
      body.resume();
    };
    /** Answered only when what had come is cleared away: whoever hears the answer finds nothing of it. */
    let isCutOff = false;
    const cutOff = (): void => {
      isCutOff = true;
      const cleared = file?.catch(() => {}) ?? Promise.resolve();
      void Promise.race([cleared, setTimeout(CLEARING_MS)]).then(() => settle(refuse("cut-off")));
    };
    parser.on("field", (name, value) => fields.set(name, value.replaceAll("\0", "")));
    parser.on("file", (name, stream, info) => {
      if (name !== "file" || file) {
        stream.resume();
        return;
      }
      fileName = info.filename ?? "";
      // Keeping begins a moment later. A form that breaks off before that must not find a stream that nobody listens to: that ends the process.
      stream.on("error", () => {});
      file = landFile(stream);
      file.then(
        (landed) => {
          if (!landed.ok) settle(landed);
        },
        () => settle(refuse("cut-off")),
      );
    });
    parser.on("error", cutOff);
    body.on("error", () => {
      parser.destroy(new Error("cut off"));
      cutOff();
    });
    parser.on("close", () => {
      if (isCutOff) return;
      if (!file) settle(refuse("no-file"));
      else
        file.then(
          (landed) => settle(landed.ok ? { ok: true, value: { landed: landed.value, fileName } } : landed),
          () => settle(refuse("cut-off")),
        );
    });
    body.pipe(parser);
  });
}
