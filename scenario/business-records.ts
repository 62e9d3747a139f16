import type { Line, WorldRecord } from "./world.ts";

/** A line of the world as records carry it: prices in pounds. */
export function lineOfRecord(l: Line): Readonly<Record<"text" | "quantity" | "unit" | "price" | "amount", string>> {
  return {
    text: l.text,
    quantity: String(l.quantity),
    unit: l.unit,
    price: String(Math.round(l.price * 100) / 10_000),
    amount: (Math.round(l.quantity * l.price) / 100).toFixed(2),
  };
}

/** A record of the demo world as the stand-in business system takes it. */
export function asBusinessRecord(r: WorldRecord) {
  const { company, type, key, title, status, parent, follows } = r;
  const fields = { ...r.fields, ...(r.currency === undefined ? {} : { currency: r.currency }) };
  return {
    company,
    type,
    key,
    title,
    status,
    fields,
    lines: r.lines?.map(lineOfRecord) ?? null,
    parent: parent ?? null,
    follows: follows ?? [],
  };
}
