// The browser that tests of the interface run in has no Response; what our own calls read of one is enough.
if (typeof globalThis.Response === "undefined") {
  globalThis.Response = class Response {
    constructor(body, { status = 200 } = {}) {
      this.body = body;
      this.status = status;
      this.ok = status >= 200 && status < 300;
    }
    json() {
      return Promise.resolve().then(() => JSON.parse(this.body));
    }
    static json(value, init) {
      return new Response(JSON.stringify(value), init);
    }
  };
}

// What a test of the interface waits for comes in milliseconds; on a machine that is busy with the journeys beside it, in seconds.
if (globalThis.document !== undefined) {
  const { configure } = await import("@testing-library/dom");
  configure({ asyncUtilTimeout: 15_000 });
}
