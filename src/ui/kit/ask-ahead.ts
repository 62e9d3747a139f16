import { preload } from "react-dom";

/**
 * Has the browser ask the API while the view's program is still on its way, for what the view is going to ask first; `path` as it will, to the letter.
 * For pages that are made on the server.
 */
export function askAhead(path: string): void {
  preload(`/api/v1${path}`, { as: "fetch", crossOrigin: "anonymous" });
}
