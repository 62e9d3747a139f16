import type { Line } from "../world.ts";

/** What stands on a document, before a layout puts it somewhere. */
export interface Paper {
  readonly heading: string;
  readonly sender: {
    readonly name: string;
    readonly address: string;
    readonly vatNumber?: string | undefined;
    readonly iban?: string | undefined;
    readonly email?: string | undefined;
  };
  readonly recipient: { readonly name: string; readonly address: string };
  readonly number?: string | undefined;
  /** YYYY-MM-DD. */
  readonly date: string;
  readonly dueDate?: string | undefined;
  /** Labelled references, such as ["Your order", "PO-6127"]. */
  readonly references: readonly (readonly [label: string, value: string])[];
  readonly lines?: readonly Line[] | undefined;
  readonly money?: { readonly net: string; readonly tax: string; readonly total: string; readonly currency: string } | undefined;
  /** A table of its own, first row the heads. */
  readonly table?: readonly (readonly string[])[] | undefined;
  readonly paragraphs?: readonly string[] | undefined;
  readonly footer?: string | undefined;
}

const months = [
  "January",
  "February",
  "March",
  "April",
  "May",
  "June",
  "July",
  "August",
  "September",
  "October",
  "November",
  "December",
] as const;

/** A day as documents write it; each sender has a way of its own. */
export function dayOn(paperStyle: number, day: string): string {
  const [year = "", month = "01", date = "01"] = day.split("-");
  const name = months[Number(month) - 1] ?? "";
  return (
    [
      `${Number(date)} ${name} ${year}`,
      `${date}/${month}/${year}`,
      `${date}.${month}.${year}`,
      day,
      `${Number(date)} ${name.slice(0, 3)} ${year.slice(2)}`,
      `${name} ${Number(date)}, ${year}`,
    ][paperStyle % 6] ?? day
  );
}

/** An amount as documents write it: 4,862.50. */
export function amountOn(text: string): string {
  const [whole = "", places = "00"] = text.split(".");
  return `${whole.replace(/\B(?=(\d{3})+(?!\d))/g, ",")}.${places}`;
}

/** A unit price in pennies as documents write it, with as many places as it needs. */
export function priceOn(pennies: number): string {
  return Number.isInteger(pennies) ? amountOn((pennies / 100).toFixed(2)) : (pennies / 100).toFixed(3);
}
