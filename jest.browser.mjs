import { runInNewContext } from "node:vm";
import { JSDOM } from "jsdom";

/** A browser's page beside Node, one for all tests of screens; each test clears what it drew. */
const { window } = new JSDOM("<!doctype html>", { url: "http://localhost/", pretendToBeVisual: true });
/** What the language and the clock bring stays Node's: an array of one is none of the other. */
const kept = new Set([
  ...runInNewContext("Object.getOwnPropertyNames(globalThis)"),
  ...["setTimeout", "clearTimeout", "setInterval", "clearInterval", "queueMicrotask", "performance"],
]);
for (const name of Object.getOwnPropertyNames(window)) {
  if (name.startsWith("_") || kept.has(name)) continue;
  Object.defineProperty(globalThis, name, {
    configurable: true,
    get: () => window[name],
    set(value) {
      Object.defineProperty(globalThis, name, { configurable: true, writable: true, value });
    },
  });
}
globalThis.window = window;
globalThis.self = window;
for (const name of ["addEventListener", "removeEventListener", "dispatchEvent"]) globalThis[name] = window[name].bind(window);
globalThis.IS_REACT_ACT_ENVIRONMENT = true;
// The library would clear up after the tests of the first file only: each file does so itself.
process.env.RTL_SKIP_AUTO_CLEANUP = "true";

// What a test of the interface waits for comes in milliseconds; on a machine that is busy with the journeys beside it, in seconds.
const { configure } = await import("@testing-library/dom");
configure({ asyncUtilTimeout: 15_000 });
// React keeps how it waits from the first time that it does: it must not be the clock of a test that has one of its own.
const { act } = await import("react");
await act(async () => {});
