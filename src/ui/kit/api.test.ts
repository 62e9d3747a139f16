import { apiGet, ApiProblem, apiSend, queryOf, wordsOf } from "./api.ts";

const answer = (status: number, body: unknown): Response => new Response(JSON.stringify(body), { status });
const asked = jest.fn<ReturnType<typeof fetch>, Parameters<typeof fetch>>();
const real = globalThis.fetch;
beforeEach(() => {
  asked.mockReset();
  globalThis.fetch = asked;
});
afterAll(() => {
  globalThis.fetch = real;
});

describe("Asking the API", () => {
  test("gives what it answers", async () => {
    asked.mockResolvedValue(answer(200, { items: [1] }));
    expect(await apiGet("/find?q=a")).toEqual({ items: [1] });
    expect(asked.mock.calls[0]?.[0]).toBe("/api/v1/find?q=a");
  });
  test("sends JSON", async () => {
    asked.mockResolvedValue(answer(200, {}));
    await apiSend("PUT", "/settings/limits", { a: 1 });
    expect(asked.mock.calls[0]?.[1]).toMatchObject({ method: "PUT", body: '{"a":1}' });
  });
  test("throws refusals with their words, code and fields", async () => {
    asked.mockResolvedValue(
      answer(400, {
        title: "Some of this could not be understood",
        detail: "Put it right",
        code: "bad-input",
        errors: [{ path: "properties.documentDate", message: "must be a date" }],
      }),
    );
    const error = await apiGet("/x").catch((e: unknown) => e);
    expect(error).toBeInstanceOf(ApiProblem);
    expect(error).toMatchObject({ status: 400, code: "bad-input" });
    expect(wordsOf(error)).toEqual({ title: "Some of this could not be understood", next: "documentDate must be a date" });
  });
  test("an answer without words still says something", async () => {
    asked.mockResolvedValue(new Response("<html>", { status: 502 }));
    expect(wordsOf(await apiGet("/x").catch((e: unknown) => e)).title).toBe("Something went wrong");
  });
  test("a server that is away is said to be away, with what it means", async () => {
    asked.mockRejectedValue(new TypeError("Failed to fetch"));
    const error = await apiGet("/x").catch((e: unknown) => e);
    expect(error).toMatchObject({ code: "unreachable", status: 0 });
    expect(wordsOf(error).next).toContain("Nothing is lost");
  });
  test("what was called off stays called off", async () => {
    asked.mockRejectedValue(new DOMException("off", "AbortError"));
    await expect(apiGet("/x")).rejects.toMatchObject({ name: "AbortError" });
  });
  test("errors of other kinds have words too", () => {
    expect(wordsOf(new Error("three were left out")).next).toBe("three were left out");
    expect(wordsOf("odd").title).toBe("Something went wrong");
  });
});

test.each([
  [{}, ""],
  [{ q: "a b&c", empty: "", nothing: null, missing: undefined, off: false }, "?q=a+b%26c"],
  [{ on: true, n: 0, limit: 20 }, "?on=1&n=0&limit=20"],
])("%j becomes %s", (values, text) => expect(queryOf(values)).toBe(text));
