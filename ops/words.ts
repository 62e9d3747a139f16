import ts from "typescript";

/** A word that is no longer used where people read it, and what to write. */
export interface RetiredWord {
  readonly pattern: RegExp;
  readonly use: string;
}

/** The words of docs/glossary.md that others have replaced. */
export const retiredWords: readonly RetiredWord[] = [
  { pattern: /\bpapers?\b/i, use: "document" },
  { pattern: /\bkinds? of document/i, use: "document type" },
  { pattern: /\bhands?-free\b/i, use: "automatic filing, filed automatically" },
  { pattern: /\bin hand\b/i, use: "received" },
  { pattern: /\blaps(?:e|es|ed|ing)\b/i, use: "expire, expired" },
  { pattern: /\bsettled\b/i, use: "complete" },
  { pattern: /\bought to\b/i, use: "must" },
  { pattern: /\bbeneath\b/i, use: "child records, of" },
  { pattern: /\b(?:account|record|one) above\b/i, use: "parent" },
  { pattern: /\banswers? for\b|\bwho(?:ever)? answers\b/i, use: "responsible" },
  { pattern: /\balso seen by\b|\bseen here only\b/i, use: "also shown on, not shown on other records" },
  { pattern: /\btell apart by\b/i, use: "if names clash, add" },
  { pattern: /\badrift\b/i, use: "out of sync" },
  { pattern: /\bproven\b|\bproofs?\b/i, use: "verified" },
  { pattern: /\bplaced\b|\bplacing\b|\bplacements?\b/i, use: "stored, location" },
  { pattern: /\blook(?:s|ed|ing)? (?:it |a \w+ )?through\b/i, use: "scan" },
  { pattern: /\bwords off\b/i, use: "OCR" },
  { pattern: /\bdrop (?:the|this) plan\b/i, use: "discard" },
  { pattern: /\blet pass\b/i, use: "tolerance" },
  { pattern: /\bkept filters?\b/i, use: "saved filter" },
  { pattern: /\btake[ns]? in\b|\btaking in\b|\btook in\b/i, use: "receive" },
  { pattern: /\bhand(?:ed|ing|s)? (?:over|to)\b/i, use: "assign" },
  { pattern: /\btie[sd]?\b|\btied to\b/i, use: "link, assign" },
  { pattern: /\bput(?:s|ting)? (?:\w+ )?right\b/i, use: "correct" },
  { pattern: /\banew\b/i, use: "again" },
  { pattern: /\bchosen\b/i, use: "selected" },
  { pattern: /\btake[ns]? apart\b|\btook apart\b/i, use: "split" },
  { pattern: /\bwhat waits\b/i, use: "waiting documents" },
  { pattern: /\bthe program\b/i, use: "Amber Clip, the server, or a passive without it" },
  { pattern: /\bgone from\b/i, use: "missing from" },
];

/** A text that a person may read. */
export interface Text {
  readonly line: number;
  readonly text: string;
}

/** Attributes whose values nobody reads. */
const silent = /^(?:className|href|key|id|htmlFor|data-.*|role|type|variant|style|src|d|viewBox|accept|target|rel|as|name|value|eventKey)$/;
const prose = /\p{L}[^\n]*\s[^\n]*\p{L}|^\p{Lu}\p{Ll}+/u;
const code =
  /\b(?:select|insert into|update \w+ set|delete from|order by|union all|left join|create (?:temp )?table)\b|^[./#@{]|[a-z]+\/[a-z]/i;

/**
 * The texts of a TypeScript file that a person may read: text between tags, strings and templates that look like prose. SQL, paths, module names and
 * attributes that only the browser reads are passed over.
 * @param fileName Its ending tells whether it holds tags.
 */
export function textsOf(fileName: string, source: string): readonly Text[] {
  const file = ts.createSourceFile(
    fileName,
    source,
    ts.ScriptTarget.Latest,
    true,
    fileName.endsWith("x") ? ts.ScriptKind.TSX : ts.ScriptKind.TS,
  );
  const found: Text[] = [];
  const add = (node: ts.Node, text: string): void => {
    // Names in braces are replaced before anybody reads them.
    const tidy = text
      .replace(/\{\w+\}/g, "…")
      .replace(/\s+/g, " ")
      .trim();
    if (tidy !== "") found.push({ line: file.getLineAndCharacterOfPosition(node.getStart(file)).line + 1, text: tidy });
  };
  const visit = (node: ts.Node): void => {
    if (ts.isImportDeclaration(node) || ts.isExportDeclaration(node) || ts.isLiteralTypeNode(node)) return;
    if (ts.isTaggedTemplateExpression(node) && /sql|String\.raw/.test(node.tag.getText(file))) return;
    if (ts.isJsxAttribute(node) && silent.test(node.name.getText(file))) {
      if (node.name.getText(file) !== "className" && node.initializer && !ts.isStringLiteral(node.initializer)) visit(node.initializer);
      return;
    }
    if (ts.isJsxText(node)) add(node, node.text);
    else if (ts.isStringLiteralLike(node)) {
      if (prose.test(node.text) && !code.test(node.text)) add(node, node.text);
    } else if (ts.isTemplateExpression(node)) {
      const text = [node.head.text, ...node.templateSpans.map((s) => s.literal.text)].join(" … ");
      if (prose.test(text) && !code.test(text)) add(node, text);
    }
    ts.forEachChild(node, visit);
  };
  visit(file);
  return found;
}

/** The retired words in a text, with what to write instead. */
export const retiredIn = (text: string): readonly { readonly word: string; readonly use: string }[] =>
  retiredWords.flatMap(({ pattern, use }) => {
    const word = pattern.exec(text)?.[0];
    return word === undefined ? [] : [{ word, use }];
  });
