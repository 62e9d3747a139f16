import { windowOf } from "./day-windows.ts";

test.each([
  ["last7", { from: "2026-11-13", to: "2026-11-19" }],
  ["next30", { from: "2026-11-20", to: "2026-12-20" }],
  ["no such", {}],
  [null, {}],
])("the window %s around 20 November", (key, window) => expect(windowOf(key, "2026-11-20")).toEqual(window));
