import type { FieldValues } from "../records/record-type.ts";
import { recordValue } from "../records/condition.ts";
import type { FolderRecord } from "./decide-folder.ts";
import { legalName, type NamingLimits } from "./legal-name.ts";
import type { FolderRule } from "./folder-rule.ts";
import { knownPattern, renderPattern } from "./name-pattern.ts";

/** A document as far as its title and file name depend on it. */
export interface NamedDocument {
  /** Label of its type, such as "Supplier invoice". */
  readonly documentType: string;
  readonly title: string;
  readonly code: string;
  /** Day of filing, YYYY-MM-DD. */
  readonly filedOn: string;
  /** Number of its current version, from 1. */
  readonly version?: number;
  readonly properties: FieldValues;
}

/** What a pattern's field stands for in a document that is clipped to `record`; null when it has no value. */
export function documentValue(document: NamedDocument, record: FolderRecord | null, field: string): string | null {
  switch (field) {
    case "documentType":
      return document.documentType;
    case "title":
      return document.title;
    case "code":
      return document.code;
    case "filedOn":
      return document.filedOn;
    case "version":
      return String(document.version ?? 1);
  }
  if (field.startsWith("record.")) return record === null ? null : recordValue(record, field.slice("record.".length));
  const value = Object.hasOwn(document.properties, field) ? document.properties[field] : null;
  return value === null || value === undefined ? null : typeof value === "boolean" ? (value ? "yes" : "no") : value;
}

/** The title a document gets from its type's pattern; the type's label when the pattern leaves nothing. */
export function decideTitle(pattern: string, document: Omit<NamedDocument, "title">, record: FolderRecord | null): string {
  const parts = knownPattern(pattern);
  const title = parts ? renderPattern(parts, (field) => documentValue({ ...document, title: "" }, record, field)) : "";
  return title === "" ? document.documentType : title;
}

/** The legal file name a document gets from a folder rule's pattern, with the ending of its content. */
export function decideFileName(
  pattern: string,
  document: NamedDocument,
  record: FolderRecord | null,
  ending: string,
  limits: NamingLimits,
): string {
  const parts = knownPattern(pattern);
  const name = parts ? renderPattern(parts, (field) => documentValue(document, record, field)) : "";
  return legalName(name === "" ? document.title : name, limits, ending);
}

/** The pattern a rule names files of a document type by. */
export function filePatternOf(rule: FolderRule, documentType: string): string {
  return Object.hasOwn(rule.fileNames, documentType) ? (rule.fileNames[documentType] ?? rule.fileName) : rule.fileName;
}

/** The folders within a record's folder that a document goes to: none, its section's, or its type's. A section may have steps. */
export function decideSubFolder(
  rule: FolderRule,
  document: { readonly section: string | null; readonly typePlural: string },
  limits: NamingLimits,
): readonly string[] {
  if (rule.subFolders === "documentType") return [legalName(document.typePlural, limits)];
  if (rule.subFolders !== "section" || document.section === null) return [];
  return document.section
    .split("/")
    .map((s) => s.trim())
    .filter((s) => s !== "")
    .map((s) => legalName(s, limits));
}
