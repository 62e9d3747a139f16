import { eq } from "drizzle-orm";
import { ok, refuse } from "#core/shared/result.ts";
import { actorByMail } from "#scenario/set-up/fill-set-up.ts";
import { demoPassword } from "#scenario/set-up/people.ts";
import { arrival } from "../arrivals/tables.ts";
import { db } from "../db/connect.ts";
import { makeSetUpDatabase, putRecord, takeText } from "../db/test-world.ts";
import { fileAway } from "../documents/file-away.ts";
import { idempotency } from "../jobs/tables.ts";
import { auth } from "../people/auth.ts";
import type { Actor } from "../people/load-actor.ts";
import { makeKey } from "../people/make-person.ts";
import { door, pageOf } from "./door.ts";

const base = "http://127.0.0.1:9";
let world: Awaited<ReturnType<typeof makeSetUpDatabase>>;
let admin: Actor;
let key = "";
beforeAll(async () => {
  world = await makeSetUpDatabase();
  admin = await actorByMail("isla.rowe@merrowick.example");
  key = await makeKey(admin.id, "test");
  await putRecord(admin, "MF", "vessel", "V-1", { title: "MV One" });
});
afterAll(async () => {
  await world.end();
});

const none = { params: Promise.resolve(undefined) };
const withParams = (params: Record<string, string>) => ({ params: Promise.resolve(params) });
const request = (
  method: string,
  address: string,
  more: { body?: unknown; headers?: Record<string, string>; text?: string } = {},
): Request =>
  new Request(`${base}/api/v1${address}`, {
    method,
    headers: { authorization: `Bearer ${key}`, "content-type": "application/json", ...more.headers },
    ...(more.text !== undefined ? { body: more.text } : more.body !== undefined ? { body: JSON.stringify(more.body) } : {}),
  });

describe("Every door", () => {
  const bulk = door("bulkArrivals", async ({ body }) => ok({ done: body.ids.length, failures: [] }));
  const id = "0a1b2c3d-0000-4000-8000-000000000000";

  test("knows who asks, or answers 401 as a problem document", async () => {
    const answer = await bulk(new Request(`${base}/api/v1/arrivals/bulk`, { method: "POST", body: "{}" }), none);
    expect(answer.status).toBe(401);
    expect(answer.headers.get("content-type")).toBe("application/problem+json");
    expect(answer.headers.get("www-authenticate")).toBe("Bearer");
  });
  test("takes a session only from our own pages", async () => {
    const signed = await auth().handler(
      new Request(`${base}/api/auth/sign-in/email`, {
        method: "POST",
        headers: { "content-type": "application/json", origin: base },
        body: JSON.stringify({ email: "isla.rowe@merrowick.example", password: demoPassword }),
      }),
    );
    const cookie = signed.headers
      .getSetCookie()
      .map((c) => c.split(";")[0])
      .join("; ");
    const ask = (origin: string | null) =>
      bulk(
        new Request(`${base}/api/v1/arrivals/bulk`, {
          method: "POST",
          headers: { cookie, ...(origin === null ? {} : { origin }) },
          body: JSON.stringify({ ids: [id], action: "setAside" }),
        }),
        none,
      );
    expect((await ask(base)).status).toBe(200);
    expect((await ask("https://elsewhere.example")).status).toBe(403);
    expect((await ask(null)).status).toBe(403);
  });
  test.each([
    ["what is no JSON", { text: "{not json" }, undefined],
    ["a missing list", { body: { action: "setAside" } }, "ids"],
    ["an id that is none", { body: { ids: ["x"], action: "setAside" } }, "ids.0"],
    ["an action there is not", { body: { ids: [id], action: "burn" } }, "action"],
    ["more than may be changed at once", { body: { ids: Array.from({ length: 501 }, () => id), action: "setAside" } }, "ids"],
  ])("answers %s with 400 and the field", async (_, more, path) => {
    const answer = await bulk(request("POST", "/arrivals/bulk", more), none);
    expect(answer.status).toBe(400);
    const body = (await answer.json()) as { errors?: { path: string }[] };
    if (path) expect(body.errors?.map((e) => e.path)).toContain(path);
  });
  test("stops reading a body that is too large", async () => {
    const answer = await bulk(request("POST", "/arrivals/bulk", { text: `"${"x".repeat(3 * 1024 * 1024)}"` }), none);
    expect(answer.status).toBe(413);
  });
  test("answers a path that cannot be with 404, not with what was wrong", async () => {
    const one = door("arrival", async () => ok({}));
    expect((await one(request("GET", "/arrivals/x"), withParams({ id: "not-an-id" }))).status).toBe(404);
  });
  test("says what was wrong with a query", async () => {
    const list = door("arrivals", async ({ query }) => ok(query));
    const answer = await list(request("GET", "/arrivals?limit=0&state=nonsense&from=soon"), none);
    expect(((await answer.json()) as { errors: { path: string }[] }).errors.map((e) => e.path.split(".")[0]).sort()).toEqual([
      "from",
      "limit",
      "state",
    ]);
  });
  test("turns refusals into their status and words, and outages into 503", async () => {
    const refused = door("me", async () => refuse("no-space"));
    expect((await refused(request("GET", "/me"), none)).status).toBe(507);
    const away = door("me", async () => {
      throw Object.assign(new Error("connect"), { code: "ECONNREFUSED" });
    });
    expect((await away(request("GET", "/me"), none)).status).toBe(503);
  });
  test("answers our own bugs with a number and logs no contents", async () => {
    const said: string[] = [];
    const log = jest.spyOn(console, "error").mockImplementation((line: unknown) => void said.push(String(line)));
    const broken = door("me", async () => db().execute("select secret from nowhere where word = 'confidential words'") as never);
    const answer = await broken(request("GET", "/me"), none);
    log.mockRestore();
    expect(answer.status).toBe(500);
    const { detail } = (await answer.json()) as { detail: string };
    expect(said.join("\n")).toContain(detail.split(": ").at(-1));
    expect(said.join("\n")).not.toContain("confidential");
    expect(said.join("\n")).not.toContain("select");
  });
});

describe("The same key twice is once (promise 11)", () => {
  test("the first answer is given again, and the work is done once", async () => {
    let times = 0;
    const bulk = door("bulkArrivals", async () => ok({ done: ++times, failures: [] }));
    const ask = (body: unknown) => bulk(request("POST", "/arrivals/bulk", { body, headers: { "idempotency-key": "k-1" } }), none);
    const body = { ids: ["0a1b2c3d-0000-4000-8000-000000000000"], action: "setAside" };
    const first = await (await ask(body)).json();
    expect(await (await ask(body)).json()).toEqual(first);
    expect(times).toBe(1);
    expect((await ask({ ...body, action: "restore" })).status).toBe(409);
  });
  test("what was refused may be tried again under the same key", async () => {
    let times = 0;
    const bulk = door("bulkArrivals", async () => (++times === 1 ? refuse("unavailable") : ok({ done: 1, failures: [] })));
    const ask = () =>
      bulk(
        request("POST", "/arrivals/bulk", {
          body: { ids: ["0a1b2c3d-0000-4000-8000-000000000001"], action: "setAside" },
          headers: { "idempotency-key": "k-2" },
        }),
        none,
      );
    expect((await ask()).status).toBe(503);
    expect((await ask()).status).toBe(200);
  });
  test("two at the same moment: one does it, the other is told that it is under way", async () => {
    let release = (): void => {};
    const held = new Promise<void>((resolve) => (release = resolve));
    const bulk = door("bulkArrivals", async () => {
      await held;
      return ok({ done: 1, failures: [] });
    });
    const ask = () =>
      bulk(
        request("POST", "/arrivals/bulk", {
          body: { ids: ["0a1b2c3d-0000-4000-8000-000000000002"], action: "setAside" },
          headers: { "idempotency-key": "k-3" },
        }),
        none,
      );
    // Whichever came second is answered at once; the other waits for its work.
    const both = [ask(), ask()];
    expect((await Promise.race(both)).status).toBe(409);
    release();
    expect((await Promise.all(both)).map((answer) => answer.status).sort()).toEqual([200, 409]);
    expect((await ask()).status).toBe(200);
  });
  test("a filing whose answer was lost with the process is answered the same when it is repeated", async () => {
    const arrivalId = await takeText(admin, "lost answer.txt", "lost answer");
    const body = { documentType: "certificate", clips: [{ company: "MF", type: "vessel", key: "V-1" }], title: "Lost answer" };
    const file = door("fileArrival", ({ actor, mayBeRepeat }) => fileAway(actor, arrivalId, body, { mayBeRepeat }));
    const ask = () =>
      file(request("POST", `/arrivals/${arrivalId}/file`, { body, headers: { "idempotency-key": "k-4" } }), withParams({ id: arrivalId }));
    const first = (await (await ask()).json()) as { code: string };
    // As if the process had died after the work and before the answer was kept, long enough ago.
    await db()
      .update(idempotency)
      .set({ status: null, answer: null, madeAt: new Date(0) })
      .where(eq(idempotency.key, "k-4"));
    expect((await (await ask()).json()) as { code: string }).toMatchObject({ code: first.code });
    expect((await db().select().from(arrival).where(eq(arrival.id, arrivalId)))[0]?.state).toBe("filed");
    // Somebody who asks for something else is still told that it is gone.
    expect(await fileAway(admin, arrivalId, { ...body, documentType: "letter" }, { mayBeRepeat: true })).toMatchObject({
      ok: false,
      refusal: { code: "stale" },
    });
  });
  test("a key that is too long is refused", async () => {
    const bulk = door("bulkArrivals", async () => ok({}));
    const answer = await bulk(
      request("POST", "/arrivals/bulk", {
        body: { ids: ["0a1b2c3d-0000-4000-8000-000000000003"], action: "setAside" },
        headers: { "idempotency-key": "k".repeat(201) },
      }),
      none,
    );
    expect(answer.status).toBe(400);
  });
});

test.each([
  [0, 3, 10, "3"],
  [3, 3, 10, "6"],
  [9, 1, 10, null],
  [10, 0, 10, null],
  [0, 0, 0, null],
])("from %i with %i of %i the cursor is %s", (offset, count, total, next) => {
  expect(pageOf(Array.from({ length: count }), total, offset).next).toBe(next);
});
