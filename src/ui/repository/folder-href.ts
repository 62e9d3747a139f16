import { queryOf } from "../kit/api.ts";

/** Page that shows one folder of the repository, with its state and its exact place; for a file the folder it stands in. */
export function folderHref(path: string, isFile = false): string {
  return `/repository${queryOf({ view: "locations", q: isFile ? path.slice(0, Math.max(0, path.lastIndexOf("/"))) : path })}`;
}
