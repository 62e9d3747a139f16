import { foldName } from "./legal-name.ts";

/** A file as we know it in a folder. */
export interface KnownFile {
  readonly documentId: number;
  readonly name: string;
  /** Size, time and mark when it was proven; null when it never was looked at. */
  readonly sizeBytes: number | null;
  readonly modifiedMs: number | null;
  readonly mark: string | null;
}

/** A file as a listing shows it. */
export interface ListedFile {
  readonly name: string;
  readonly sizeBytes: number;
  readonly modifiedMs: number;
  readonly mark: string;
}

/** How a folder's listing differs from what we know of it. */
export interface ListingDifference {
  /** Nobody of ours. */
  readonly fresh: readonly ListedFile[];
  /** Ours, with another size, time or mark than when it was proven. */
  readonly changed: readonly { readonly known: KnownFile; readonly seen: ListedFile }[];
  /** Ours, under a name that differs only in capitals or Unicode form. */
  readonly respelt: readonly { readonly known: KnownFile; readonly seen: ListedFile }[];
  readonly gone: readonly KnownFile[];
}

/** Compares a folder's listing with what we know. `own` are names of ours that are no documents (links, pointers, files on their way). Linear. */
export function compareListing(known: readonly KnownFile[], listed: readonly ListedFile[], own: ReadonlySet<string>): ListingDifference {
  const exact = new Map(known.map((k) => [k.name.normalize("NFC"), k]));
  const met = new Set<number>();
  const fresh: ListedFile[] = [];
  const changed: { known: KnownFile; seen: ListedFile }[] = [];
  const respelt: { known: KnownFile; seen: ListedFile }[] = [];
  const rest: ListedFile[] = [];
  for (const seen of listed) {
    const is = exact.get(seen.name.normalize("NFC"));
    if (!is || met.has(is.documentId)) {
      rest.push(seen);
      continue;
    }
    met.add(is.documentId);
    if (differs(is, seen)) changed.push({ known: is, seen });
  }
  const folded = new Map(known.filter((k) => !met.has(k.documentId)).map((k) => [foldName(k.name), k]));
  for (const seen of rest) {
    const is = folded.get(foldName(seen.name));
    if (is && !met.has(is.documentId)) {
      met.add(is.documentId);
      respelt.push({ known: is, seen });
      if (differs(is, seen)) changed.push({ known: is, seen });
    } else if (!own.has(foldName(seen.name))) fresh.push(seen);
  }
  return { fresh, changed, respelt, gone: known.filter((k) => !met.has(k.documentId)) };
}

function differs(known: KnownFile, seen: ListedFile): boolean {
  if (known.sizeBytes === null) return false;
  return (
    known.sizeBytes !== seen.sizeBytes ||
    (known.modifiedMs !== null && known.modifiedMs !== seen.modifiedMs) ||
    (known.mark !== null && known.mark !== "" && seen.mark !== "" && known.mark !== seen.mark)
  );
}

/** The document type a file's place and name speak of: its sub-folder is named like a type, or its name begins with a type's name. Null: not said. */
export function guessType<T extends { readonly key: string; readonly label: string; readonly plural: string }>(
  types: readonly T[],
  fileName: string,
  subFolder: string | null,
): T | null {
  if (subFolder !== null) {
    const last = foldName(subFolder.split("/").at(-1) ?? "");
    const byFolder = types.find((t) => foldName(t.plural) === last || foldName(t.label) === last);
    if (byFolder) return byFolder;
  }
  const name = foldName(fileName);
  const byName = types.filter((t) => {
    const label = foldName(t.label);
    return name.startsWith(label) && !/[\p{L}\p{N}]/u.test(name.charAt(label.length));
  });
  // The longest name says the most: "supplier credit note" before "credit note".
  return byName.sort((a, b) => b.label.length - a.label.length)[0] ?? null;
}
