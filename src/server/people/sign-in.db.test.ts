import { demoPassword } from "#scenario/set-up/people.ts";
import { makeSetUpDatabase } from "../db/test-world.ts";
import { auth } from "./auth.ts";
import { loadActor } from "./load-actor.ts";
import { FAILURES_MAX } from "./sign-in-guard.ts";

let world: Awaited<ReturnType<typeof makeSetUpDatabase>>;
beforeAll(async () => {
  world = await makeSetUpDatabase();
});
afterAll(async () => {
  await world.end();
});

const signIn = (email: string, password: string): Promise<Response> =>
  auth().handler(
    new Request("http://127.0.0.1:9/api/auth/sign-in/email", {
      method: "POST",
      headers: { "content-type": "application/json", origin: "http://127.0.0.1:9" },
      body: JSON.stringify({ email, password }),
    }),
  );

describe("Signing in", () => {
  test("with the right password makes a session that says who asks, and with which grants", async () => {
    const answer = await signIn("tam.corrigall@merrowick.example", demoPassword);
    expect(answer.status).toBe(200);
    const cookie = answer.headers
      .getSetCookie()
      .map((c) => c.split(";")[0])
      .join("; ");
    expect(answer.headers.getSetCookie().join()).toMatch(/HttpOnly/i);
    const actor = await loadActor(new Headers({ cookie }));
    expect(actor?.name).toBe("Tam Corrigall");
    expect(actor?.grants.some((g) => g.company === "QS" && g.actions.includes("file"))).toBe(true);
  });
  test("nobody signs up by themselves, and a key that was never made opens nothing", async () => {
    const answer = await auth().handler(
      new Request("http://127.0.0.1:9/api/auth/sign-up/email", {
        method: "POST",
        headers: { "content-type": "application/json", origin: "http://127.0.0.1:9" },
        body: JSON.stringify({ email: "new@merrowick.example", password: "long enough 123", name: "New" }),
      }),
    );
    expect(answer.ok).toBe(false);
    expect(await loadActor(new Headers({ authorization: "Bearer ac_nothing" }))).toBeNull();
    expect(await loadActor(new Headers())).toBeNull();
  });
  test("wrong passwords in a row make that mail address wait, known or not, and nobody else", async () => {
    for (const email of ["pell.ashby@merrowick.example", "nobody@merrowick.example"]) {
      for (let i = 0; i < FAILURES_MAX; i++) expect((await signIn(email, "wrong wrong wrong")).status).toBe(401);
      expect((await signIn(email, demoPassword)).status).toBe(429);
    }
    expect((await signIn("nessa.quill@merrowick.example", demoPassword)).status).toBe(200);
  });
  test("a success forgets the failures before it", async () => {
    const email = "odran.vane@merrowick.example";
    for (let round = 0; round < 2; round++) {
      for (let i = 0; i < FAILURES_MAX - 1; i++) expect((await signIn(email, "wrong wrong wrong")).status).toBe(401);
      expect((await signIn(email, demoPassword)).status).toBe(200);
    }
  });
});
