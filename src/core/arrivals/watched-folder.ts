import { foldText } from "../shared/fold-text.ts";

/** What becomes of the loose original in a watched folder once it is taken: it stays, goes to the folder *done*, or is removed after proof. */
export const watchAfters = ["keep", "done", "remove"] as const;
export type WatchAfter = (typeof watchAfters)[number];

/** Names of sub-folders that may be the number of a record or the code of a document, the innermost first. */
export function codesInFolders(folders: readonly string[]): readonly string[] {
  return folders
    .toReversed()
    .flatMap((f) => [f, ...f.split(/\s+/)])
    .map((f) => f.trim())
    .filter((f, i, all) => f.length >= 3 && f.length <= 60 && /\d/.test(f) && all.indexOf(f) === i)
    .slice(0, 8);
}

/** The document type that a sub-folder is called after, by its key, its label or its plural; the innermost counts. Null when none is. */
export function documentTypeOfFolders(
  folders: readonly string[],
  types: readonly { readonly key: string; readonly label: string; readonly plural: string }[],
): string | null {
  for (const folder of folders.toReversed()) {
    const name = foldText(folder);
    const found = types.find((t) => [t.key, t.label, t.plural].some((w) => foldText(w) === name));
    if (found) return found.key;
  }
  return null;
}
