import type { Paper } from "./paper.ts";
import { amountOn, dayOn } from "./paper.ts";
import { amountOf, type Chance, dayAfter } from "../random.ts";
import type { World, WorldRecord } from "../world.ts";

export const ourselves = {
  MF: {
    name: "Merrowick Ferries Ltd",
    address: "Harbour House, Port Halven",
    email: "accounts@merrowick-ferries.example",
    vatNumber: "GB700061346",
  },
  QS: {
    name: "Merrowick Quay Services Ltd",
    address: "3 Quay Street, Port Halven",
    email: "office@merrowick-quay.example",
    vatNumber: "GB700122657",
  },
} as const;

const f = (r: WorldRecord, key: string): string => r.fields[key] ?? "";
const party = (r: WorldRecord) => ({
  name: r.title,
  address: f(r, "address"),
  email: f(r, "email"),
  vatNumber: r.fields["vatNumber"],
  iban: r.fields["iban"],
});
const money = (r: WorldRecord) => ({ net: f(r, "net"), tax: f(r, "tax"), total: f(r, "total"), currency: r.currency ?? "GBP" });

/** The account above a record; the world always has it. */
export function accountOf(world: World, r: WorldRecord): WorldRecord | null {
  return r.parent ? world.get(r.company, r.parent.type, r.parent.key) : null;
}

/** A supplier's invoice for an order; `over` changes what a trouble needs changed. */
export function supplierInvoice(world: World, order: WorldRecord, number: string, date: string, over: Partial<Paper> = {}): Paper {
  const supplier = accountOf(world, order);
  if (!supplier) throw new Error("an order has a supplier");
  return {
    heading: "Invoice",
    sender: party(supplier),
    recipient: ourselves[order.company],
    number,
    date,
    dueDate: dayAfter(date, 30),
    references: [
      ["Your order", order.key],
      ["Vessel", f(order, "vessel")],
      ["Delivered", f(order, "deliveryDate")],
    ],
    lines: order.lines,
    money: money(order),
    ...over,
  };
}

/** Our own purchase order. */
export function purchaseOrder(world: World, order: WorldRecord): Paper {
  const supplier = accountOf(world, order);
  return {
    heading: "Purchase order",
    sender: ourselves[order.company],
    recipient: supplier ? party(supplier) : { name: "", address: "" },
    number: order.key,
    date: f(order, "orderDate"),
    references: [
      ["Deliver to", f(order, "vessel")],
      ["Wanted by", f(order, "deliveryDate")],
      ["Your quotation", f(order, "yourReference")],
    ],
    lines: order.lines,
    money: money(order),
    footer: "Please quote our order number on every paper.",
  };
}

/** A supplier's delivery note: quantities and no prices. */
export function deliveryNote(world: World, order: WorldRecord, number: string): Paper {
  const supplier = accountOf(world, order);
  if (!supplier) throw new Error("an order has a supplier");
  return {
    heading: "Delivery note",
    sender: party(supplier),
    recipient: ourselves[order.company],
    number,
    date: f(order, "deliveryDate"),
    references: [
      ["Order", order.key],
      ["To", f(order, "vessel")],
    ],
    table: [
      ["Goods", "Quantity", "Packed"],
      ...(order.lines ?? []).map((l) => [l.text, `${l.quantity} ${l.unit}`, `${Math.max(1, Math.ceil(l.quantity / 40))}`]),
    ],
    paragraphs: ["Received in good order and condition:", "Name and date ______________________________"],
    footer: `${supplier.title} · goods remain ours until paid`,
  };
}

/** A supplier's list of open invoices. */
export function statement(
  supplier: WorldRecord,
  company: "MF" | "QS",
  rows: readonly (readonly [number: string, date: string, amount: string])[],
  date: string,
): Paper {
  const total = amountOf(rows.reduce((s, r) => s + Math.round(Number(r[2]) * 100), 0));
  return {
    heading: "Statement",
    sender: party(supplier),
    recipient: ourselves[company],
    date,
    references: [
      ["Account", supplier.key],
      ["As at", date],
    ],
    table: [["Invoice", "Date", "Amount"], ...rows.map(([n, d, a]) => [n, d, amountOn(a)]), ["Balance", "", amountOn(total)]],
  };
}

/** A customer's request for freight, as a letter. */
export function bookingRequest(world: World, booking: WorldRecord, c: Chance): Paper {
  const customer = accountOf(world, booking);
  const sender = customer ? party(customer) : { name: "Ronsay Garden Produce", address: "Ronsay" };
  return {
    heading: "Booking request",
    sender,
    recipient: ourselves[booking.company],
    number: f(booking, "yourReference"),
    date: dayAfter(f(booking, "sailingDate"), -c.whole(4, 20)),
    references: [
      ["Sailing", f(booking, "sailingDate")],
      ["Route", f(booking, "route")],
    ],
    paragraphs: [
      `Please book ${f(booking, "description")} on ${f(booking, "vessel")}, sailing ${dayOn(0, f(booking, "sailingDate"))}, ${f(booking, "route")}.`,
      `Our reference is ${f(booking, "yourReference")}. Please let us know by return if the sailing is full.`,
      c.pick([
        "The goods are chilled and need a power point on the deck.",
        "The driver goes with the vehicle.",
        "We shall be at the berth an hour before sailing.",
        "Nothing in the load is dangerous.",
      ]),
    ],
  };
}

/** A customer's packing list. */
export function packingList(world: World, booking: WorldRecord, c: Chance): Paper {
  const customer = accountOf(world, booking);
  return {
    heading: "Packing list",
    sender: customer ? party(customer) : { name: "Ronsay Garden Produce", address: "Ronsay" },
    recipient: ourselves[booking.company],
    number: booking.key,
    date: dayAfter(f(booking, "sailingDate"), -1),
    references: [
      ["Booking", booking.key],
      ["Sailing", f(booking, "sailingDate")],
      ["Vessel", f(booking, "vessel")],
    ],
    table: [
      ["Trailer", "Goods", "Crates", "kg"],
      ...Array.from({ length: c.whole(2, 7) }, (_, i) => [
        `KS-${11 + i * 3}`,
        c.pick(["Langoustine, live", "Brown crab", "Scallop, chilled", "Salmon, whole", "Cheese, waxed", "Wool, baled"]),
        String(c.whole(8, 40)),
        String(c.whole(90, 900)),
      ]),
    ],
  };
}

/** Our loading list for a sailing, to be signed at the berth. */
export function loadingList(world: World, loading: WorldRecord, c: Chance): Paper {
  const customer = accountOf(world, loading);
  return {
    heading: "Loading list",
    sender: ourselves[loading.company],
    recipient: customer ? party(customer) : { name: "Unassigned", address: "" },
    number: loading.key,
    date: f(loading, "sailingDate"),
    references: [
      ["Booking", f(loading, "orderNumber")],
      ["Vessel", f(loading, "vessel")],
      ["Route", f(loading, "route")],
    ],
    table: [
      ["Deck", "Unit", "Goods", "Length m"],
      ...Array.from({ length: c.whole(2, 6) }, (_, i) => [
        String(c.whole(1, 3)),
        `KS-${11 + i * 3}`,
        f(loading, "description"),
        (c.whole(60, 150) / 10).toFixed(1),
      ]),
    ],
    paragraphs: ["Loaded as above. Officer of the watch ______________________  Shipper ______________________"],
  };
}

/** Our confirmation of a booking. */
export function bookingConfirmation(world: World, booking: WorldRecord): Paper {
  const customer = accountOf(world, booking);
  return {
    heading: "Booking confirmation",
    sender: ourselves[booking.company],
    recipient: customer ? party(customer) : { name: "To whom it concerns", address: "" },
    number: booking.key,
    date: dayAfter(f(booking, "sailingDate"), -3),
    references: [
      ["Your reference", f(booking, "yourReference")],
      ["Vessel", f(booking, "vessel")],
      ["Sailing", f(booking, "sailingDate")],
    ],
    paragraphs: [
      `We confirm ${f(booking, "description")}, ${f(booking, "route")}. Please be at the berth forty-five minutes before sailing.`,
    ],
    money: money(booking),
  };
}

/** Our sales invoice. */
export function salesInvoice(world: World, invoice: WorldRecord): Paper {
  const customer = accountOf(world, invoice);
  return {
    heading: "Invoice",
    sender: { ...ourselves[invoice.company], iban: undefined },
    recipient: customer ? party(customer) : { name: "Cash customer", address: "" },
    number: invoice.key,
    date: f(invoice, "documentDate"),
    dueDate: f(invoice, "dueDate"),
    references: [["Booking", f(invoice, "orderNumber")]],
    table: [
      ["Service", "Amount"],
      [`Freight ${f(invoice, "orderNumber")}`, amountOn(f(invoice, "net"))],
    ],
    money: money(invoice),
  };
}

/** A certificate for a vessel, a person or a thing. */
export function certificate(subject: string, what: string, number: string, date: string, until: string, c: Chance): Paper {
  return {
    heading: "Certificate",
    sender: {
      name: c.pick(["Sound Marine Surveyors", "Innsay Safety Training", "Kelder Safety Equipment"]),
      address: "Beacon Street, Quell Point",
    },
    recipient: { name: subject, address: "" },
    number,
    date,
    references: [
      ["Valid until", until],
      ["Certificate", number],
    ],
    paragraphs: [
      `This is to certify that ${subject} was examined on the day stated and found to meet the requirements for ${what}.`,
      "This certificate is void if altered.",
    ],
    footer: "issued for the sample archipelago of Merrowick Sound",
  };
}

/** A claim form. */
export function claimForm(world: World, claim: WorldRecord): Paper {
  const customer = accountOf(world, claim);
  return {
    heading: "Claim form",
    sender: customer ? party(customer) : { name: "Private claimant", address: "Skarra" },
    recipient: ourselves[claim.company],
    number: claim.key,
    date: dayAfter(f(claim, "sailingDate"), 2),
    references: [
      ["Claim", claim.key],
      ["Booking", f(claim, "orderNumber")],
      ["Vessel", f(claim, "vessel")],
    ],
    paragraphs: [
      `On arrival we found: ${f(claim, "description")}.`,
      `We claim ${claim.fields["currency"] ?? "GBP"} ${amountOn(f(claim, "total"))}. Photographs are attached.`,
      "Signed ______________________",
    ],
  };
}

/** A letter of no number. */
export function letter(from: WorldRecord, company: "MF" | "QS", date: string, paragraphs: readonly string[]): Paper {
  return {
    heading: "Letter",
    sender: party(from),
    recipient: ourselves[company],
    date,
    references: [["Account", from.key]],
    paragraphs: ["Dear Sir or Madam", ...paragraphs, "Yours faithfully"],
  };
}
