declare const brand: unique symbol;

/** A checked value that does not pass for another of the same shape: a RecordId is no DocumentId. */
export type Brand<T, Name extends string> = T & { readonly [brand]: Name };

export type RecordId = Brand<number, "RecordId">;
export type DocumentId = Brand<number, "DocumentId">;
export type ArrivalId = Brand<string, "ArrivalId">;
export type PersonId = Brand<string, "PersonId">;
/** SHA-256 of a file's bytes, 64 lower-case hex digits. */
export type Sha256 = Brand<string, "Sha256">;
/** A document's permanent code, such as AC-040291. */
export type DocumentCode = Brand<string, "DocumentCode">;

/** Reads a whole number from the database as a record's id. Throws on anything else: that is our own bug. */
export function parseRecordId(value: unknown): RecordId {
  return parseId(value) as RecordId;
}

/** Reads a whole number from the database as a document's id. Throws on anything else. */
export function parseDocumentId(value: unknown): DocumentId {
  return parseId(value) as DocumentId;
}

/** Reads an arrival's id (UUID, any case); null when it is not one. */
export function parseArrivalId(value: string): ArrivalId | null {
  return /^[0-9a-f]{8}-[0-9a-f]{4}-[0-9a-f]{4}-[0-9a-f]{4}-[0-9a-f]{12}$/i.test(value) ? (value.toLowerCase() as ArrivalId) : null;
}

/** Reads a person's id as the sign-in library makes it. */
export function parsePersonId(value: string): PersonId {
  if (value.length === 0 || value.length > 64) throw new Error("not a person id");
  return value as PersonId;
}

/** Reads a SHA-256 in hex; throws on anything else, since it becomes part of a path. */
export function parseSha256(value: string): Sha256 {
  if (!/^[0-9a-f]{64}$/.test(value)) throw new Error("not a sha256");
  return value as Sha256;
}

/** Reads a document code; null when it does not look like one. */
export function parseDocumentCode(value: string): DocumentCode | null {
  return /^AC-\d{6,12}$/.test(value) ? (value as DocumentCode) : null;
}

/** The code of a document id: AC- and at least six digits. */
export function documentCodeOf(id: number): DocumentCode {
  return `AC-${String(id).padStart(6, "0")}` as DocumentCode;
}

function parseId(value: unknown): number {
  const id = typeof value === "string" ? Number(value) : value;
  if (typeof id !== "number" || !Number.isSafeInteger(id) || id <= 0) throw new Error("not an id");
  return id;
}
