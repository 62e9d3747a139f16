/**
 * The runner of tests without a browser waits for ever: a test or a hook that does not end is given up after this at the earliest, ms. It is for what
 * hangs, not for what is slow: beside the journeys an office program may take a minute and a half to start.
 */
const LIMIT_MS = 180_000;

const limited =
  (act, asked = LIMIT_MS) =>
  (...given) => {
    let timer;
    const limit = Math.max(asked, LIMIT_MS);
    const late = new Promise((_, reject) => {
      timer = setTimeout(() => reject(new Error(`not done within ${limit / 1000} s`)), limit);
    });
    return Promise.race([Promise.resolve().then(() => act(...given)), late]).finally(() => clearTimeout(timer));
  };

function withLimit(add) {
  const named = (name, act, limit) => add(name, act && limited(act, limit));
  return Object.assign(named, {
    only: (name, act, limit) => add.only(name, act && limited(act, limit)),
    skip: add.skip,
    each:
      (...table) =>
      (name, act, limit) =>
        add.each(...table)(name, limited(act, limit)),
  });
}
globalThis.test = withLimit(globalThis.test);
globalThis.it = globalThis.test;
for (const hook of ["beforeAll", "afterAll", "beforeEach", "afterEach"]) {
  const add = globalThis[hook];
  globalThis[hook] = (act, limit) => add(limited(act, limit));
}
