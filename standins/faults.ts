import { createHash } from "node:crypto";
import http from "node:http";
import { z } from "zod";

/** What can be made to go wrong, each until it is turned off again. */
export const faultsSchema = z.object({
  /** Every answer waits so long, ms. */
  slowMs: z.number().int().min(0).max(60_000).default(0),
  /** Nobody is let in. */
  refuses: z.boolean().default(false),
  /** Nothing more fits: 507 for everything that writes. */
  full: z.boolean().default(false),
  /** So many calls of a hundred have their line dropped in the middle; which ones follows from a fixed seed. */
  drops: z.number().int().min(0).max(100).default(0),
  /** Every call that changes something is carried out twice; the second answer is given. */
  twice: z.boolean().default(false),
  /** No calls are answered at all. */
  away: z.boolean().default(false),
});
export type Faults = z.infer<typeof faultsSchema>;

/** Path under which faults are seen (GET) and set (PUT, JSON; what is left out is turned off). */
export const FAULTS_PATH = "/.faults";
const writing = ["PUT", "POST", "DELETE", "MOVE", "COPY", "MKCOL", "PROPPATCH"];
const SEED = 20_261_118;
/** A call that is kept to be carried out twice is no larger, bytes. */
const KEPT_MAX = 256 * 1024 * 1024;

/**
 * Stands in front of a stand-in server on loopback and makes things go wrong on demand, as lines and servers do. Passes everything else through
 * unchanged. Does not imitate: broken TLS, wrong bytes in an answer.
 */
export function startFaults(options: {
  readonly port: number;
  readonly behind: number;
  /** Whether something stands at an address: with it `If-None-Match: *` (RFC 9110) is kept to when something is put, as common servers do. */
  readonly stands: (url: string) => Promise<boolean>;
  /** Keeps to no condition and passes on what comes as it comes: what breaks off leaves a half. */
  readonly careless: boolean;
}): Promise<http.Server> {
  const putting = new Map<string, Promise<void>>();
  /** Carries out a conditional put: one at a time for an address, and 412 when something stands there. */
  async function putIfFree(request: http.IncomingMessage, response: http.ServerResponse, act: () => void): Promise<void> {
    const url = request.url ?? "";
    const before = putting.get(url);
    const mine = new Promise<void>((resolve) => response.once("close", resolve));
    putting.set(url, mine);
    void mine.then(() => {
      if (putting.get(url) === mine) putting.delete(url);
    });
    await before;
    if (!(await options.stands(url))) return act();
    request.resume();
    answer(response, 412);
  }
  let faults = faultsSchema.parse({});
  let chance = SEED;
  let calls = 0;
  const isUnlucky = (): boolean => (chance = (Math.imul(chance, 1_664_525) + 1_013_904_223) >>> 0) / 2 ** 32 < faults.drops / 100;
  const server = http.createServer((request, response) => {
    if (request.url === FAULTS_PATH) return void setFaults(request, response);
    calls++;
    const isWriting = writing.includes(request.method ?? "");
    if (faults.away) return void request.socket.destroy();
    setTimeout(() => {
      if (faults.refuses) return answer(response, 403);
      if (faults.full && isWriting && request.method !== "DELETE") return answer(response, 507);
      const drops = faults.drops > 0 && isUnlucky();
      if (drops && isWriting) {
        // Half of what is sent gets through; nobody answers.
        request.once("data", () => request.socket.destroy());
        setTimeout(() => request.socket.destroy(), 50).unref();
        return;
      }
      const isConditional = !options.careless && request.method === "PUT" && request.headers["if-none-match"] === "*";
      const act = (): void => {
        if (faults.twice && isWriting) void passTwice(request, response, options.behind, isConditional);
        else if (request.method === "PUT" && !options.careless) void passWhole(request, response, options.behind);
        else pass(request, response, options.behind, drops);
      };
      if (isConditional) void putIfFree(request, response, act);
      else act();
    }, faults.slowMs);
  });
  async function setFaults(request: http.IncomingMessage, response: http.ServerResponse): Promise<void> {
    if (request.method === "PUT") {
      const parsed = faultsSchema.safeParse(JSON.parse((await readAll(request)).toString("utf8") || "{}"));
      if (!parsed.success) return answer(response, 400);
      faults = parsed.data;
      chance = SEED;
    }
    response.setHeader("content-type", "application/json");
    response.end(JSON.stringify({ ...faults, calls }));
  }
  return new Promise((resolve, reject) => {
    server.once("error", reject);
    server.listen(options.port, "127.0.0.1", () => resolve(server));
  });
}

function pass(request: http.IncomingMessage, response: http.ServerResponse, behind: number, drops: boolean): void {
  const onward = http.request(
    { port: behind, host: "127.0.0.1", method: request.method, path: request.url, headers: request.headers },
    (answered) => {
      response.writeHead(answered.statusCode ?? 502, answered.headers);
      if (!drops) return void answered.pipe(response);
      // The head and half of the first piece, and then the line is gone.
      answered.once("data", (piece: Buffer) => {
        response.write(piece.subarray(0, piece.length >> 1), () => response.socket?.destroy());
      });
      answered.once("end", () => response.socket?.destroy());
    },
  );
  onward.on("error", () => response.socket?.destroy());
  response.on("close", () => onward.destroy());
  request.pipe(onward);
}

/** Passes something that is put on only once all of it is here: what breaks off leaves nothing, as common servers do it. */
async function passWhole(request: http.IncomingMessage, response: http.ServerResponse, behind: number): Promise<void> {
  const body = await readAll(request).catch(() => null);
  if (body === null) return void response.socket?.destroy();
  if (!isAsSigned(request, body)) return answerMismatch(response);
  const headers = { ...request.headers, "content-length": String(body.length) };
  delete headers["transfer-encoding"];
  const onward = http.request({ port: behind, host: "127.0.0.1", method: "PUT", path: request.url, headers }, (answered) => {
    response.writeHead(answered.statusCode ?? 502, answered.headers);
    answered.pipe(response);
  });
  onward.on("error", () => response.socket?.destroy());
  onward.end(body);
}

/** Whether a body has the hash that its request was signed with; where none is said, anything has. */
function isAsSigned(request: http.IncomingMessage, body: Buffer): boolean {
  const said = request.headers["x-amz-content-sha256"];
  return typeof said !== "string" || !/^[0-9a-f]{64}$/.test(said) || said === createHash("sha256").update(body).digest("hex");
}

function answerMismatch(response: http.ServerResponse): void {
  response.writeHead(400, { "content-type": "application/xml" });
  response.end(
    "<Error><Code>XAmzContentSHA256Mismatch</Code><Message>The provided x-amz-content-sha256 does not match what was computed.</Message></Error>",
  );
}

async function passTwice(
  request: http.IncomingMessage,
  response: http.ServerResponse,
  behind: number,
  isConditional: boolean,
): Promise<void> {
  const body = await readAll(request).catch(() => null);
  if (body === null) return void response.socket?.destroy();
  const headers = { ...request.headers };
  delete headers["transfer-encoding"];
  if (body.length > 0) headers["content-length"] = String(body.length);
  const send = (): Promise<{ readonly status: number; readonly headers: http.IncomingHttpHeaders; readonly body: Buffer }> =>
    new Promise((resolve, reject) => {
      const onward = http.request({ port: behind, host: "127.0.0.1", method: request.method, path: request.url, headers }, (answered) => {
        readAll(answered).then((b) => resolve({ status: answered.statusCode ?? 502, headers: answered.headers, body: b }), reject);
      });
      onward.on("error", reject);
      onward.end(body);
    });
  try {
    const first = await send();
    // What was put under the condition that nothing stands there does stand there the second time.
    if (isConditional && first.status < 300) return answer(response, 412);
    const second = await send();
    response.writeHead(second.status, second.headers);
    response.end(second.body);
  } catch {
    response.socket?.destroy();
  }
}

async function readAll(stream: AsyncIterable<Buffer | string>): Promise<Buffer> {
  const pieces: Buffer[] = [];
  let bytes = 0;
  for await (const piece of stream) {
    const buffer = Buffer.from(piece as Buffer);
    bytes += buffer.length;
    if (bytes > KEPT_MAX) throw new Error("too large for a stand-in");
    pieces.push(buffer);
  }
  return Buffer.concat(pieces);
}

function answer(response: http.ServerResponse, status: number): void {
  response.writeHead(status, { "content-type": "text/plain" });
  response.end();
}
