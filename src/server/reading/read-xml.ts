import { readFile, stat } from "node:fs/promises";
import { XMLParser } from "fast-xml-parser";
import { z } from "zod";
import { type EInvoice, readEInvoice, type XmlElement, textOfEInvoice } from "#core/reading/e-invoice.ts";
import { decodeText } from "./detect-kind.ts";
import { keptBody, type Reader } from "./read-outcome.ts";
import { readText } from "./read-plain.ts";

/** Bytes of an XML file that is taken apart; a larger one is shown as text. */
const XML_BYTES_MAX = 20 * 1024 * 1024;
/** Elements inside elements; an e-invoice has about a dozen. */
const DEPTH_MAX = 60;

// Entities are never resolved: a few lines of them can swell to all the memory there is.
const parser = new XMLParser({
  preserveOrder: true,
  ignoreAttributes: false,
  attributeNamePrefix: "",
  removeNSPrefix: true,
  parseTagValue: false,
  parseAttributeValue: false,
  processEntities: false,
  trimValues: true,
  ignoreDeclaration: true,
  ignorePiTags: true,
});

const nodesSchema = z.array(z.record(z.string(), z.unknown()));

/** The root of an XML text; null for what is no well-formed XML, has a document type (entities), or is nested without end. */
export function parseXml(text: string): XmlElement | null {
  if (/<!DOCTYPE/i.test(text.slice(0, 20_000))) return null;
  try {
    const nodes = nodesSchema.safeParse(parser.parse(text, true));
    return nodes.success ? (elementsOf(nodes.data, 0)[0] ?? null) : null;
  } catch {
    return null;
  }
}

/** Only the five that XML itself has. */
function plainEntities(text: string): string {
  return text.replace(/&(lt|gt|quot|apos|amp|#\d{1,7});/g, (whole, name: string) => {
    if (name.startsWith("#")) {
      const point = Number(name.slice(1));
      return point > 0x10ffff || point < 9 ? "" : String.fromCodePoint(point);
    }
    return { lt: "<", gt: ">", quot: '"', apos: "'", amp: "&" }[name] ?? whole;
  });
}

function elementsOf(nodes: readonly Record<string, unknown>[], depth: number): XmlElement[] {
  if (depth > DEPTH_MAX) throw new RangeError("nested too deep");
  return nodes.flatMap((node) => {
    const name = Object.keys(node).find((k) => k !== ":@");
    if (name === undefined || name.startsWith("#") || name.startsWith("?")) return [];
    const inner = nodesSchema.safeParse(node[name]);
    if (!inner.success) return [];
    const given = z.record(z.string(), z.string()).safeParse(node[":@"] ?? {});
    const text = inner.data.map((n) => (typeof n["#text"] === "string" ? n["#text"] : "")).join("");
    return [{ name, attributes: given.success ? given.data : {}, text: plainEntities(text), children: elementsOf(inner.data, depth + 1) }];
  });
}

/** The e-invoice in an XML text; null when it is none. */
export function eInvoiceIn(text: string): EInvoice | null {
  const root = parseXml(text);
  return root ? readEInvoice(root) : null;
}

/** Reads an XML file: an e-invoice as what it says, anything else as text. Nothing in it is followed or run. */
export const readXml: Reader = async (file, options) => {
  if ((await stat(file)).size > XML_BYTES_MAX) return readText(file, options);
  const invoice = eInvoiceIn(decodeText(await readFile(file)));
  if (!invoice) return readText(file, options);
  const { body, truncated } = keptBody(textOfEInvoice(invoice));
  return {
    pages: 1,
    pageTexts: [],
    body,
    outline: { kind: "invoice", invoice },
    problem: truncated ? { code: "truncated", detail: null } : null,
  };
};
