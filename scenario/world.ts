import { amountOf, type Chance, chance, dayAfter } from "./random.ts";

/** A record of the demo world, before it is sent in. */
export interface WorldRecord {
  readonly company: "MF" | "QS";
  readonly type: string;
  readonly key: string;
  readonly title: string;
  readonly status: string | null;
  readonly fields: Readonly<Record<string, string>>;
  readonly amount?: string | undefined;
  readonly currency?: string | undefined;
  readonly parent?: { readonly type: string; readonly key: string } | undefined;
  readonly follows?: readonly { readonly type: string; readonly key: string }[] | undefined;
  /** What was ordered or invoiced; for the documents. */
  readonly lines?: readonly Line[] | undefined;
}
export interface Line {
  readonly text: string;
  readonly quantity: number;
  readonly unit: string;
  /** Pennies each. */
  readonly price: number;
}

export interface World {
  readonly records: readonly WorldRecord[];
  /** The day it is in the demo world. */
  readonly today: string;
  of(company: "MF" | "QS", type: string): readonly WorldRecord[];
  get(company: "MF" | "QS", type: string, key: string): WorldRecord;
}

const TODAY = "2026-11-20";
export const vessels = ["MV Pale Heron", "MV Sandling", "MV Orrin Light", "MV Tarrin Maid", "MV Corran Bell", "MV Skerry Rose"] as const;
const routes = [
  "Port Halven – Quell Point",
  "Port Halven – Isle of Tarrin",
  "Quell Point – Skarra",
  "Isle of Tarrin – Innsay",
  "Port Halven – Innsay",
  "Skarra – Port Halven",
] as const;
const places = ["Port Halven", "Quell Point", "Isle of Tarrin", "Skarra", "Innsay", "Wester Holm", "Kelder Bay", "Ronsay"] as const;
const streets = [
  "Slip Road",
  "Harbour Row",
  "Kiln Lane",
  "Net Loft Close",
  "Beacon Street",
  "Fuel Berth",
  "Capstan Yard",
  "Tidewater Way",
] as const;
const firsts = [
  "Orrin",
  "Halven",
  "Quell",
  "Tarrin",
  "Skarra",
  "Innsay",
  "Kelder",
  "Ronsay",
  "Brae",
  "Holm",
  "Corran",
  "Fenwick",
  "Ailsa",
  "Marrow",
  "Sound",
  "Beacon",
  "Gannet",
  "Fulmar",
  "Petrel",
  "Larkhope",
  "Thrift",
  "Marram",
  "Selkie",
  "Stane",
] as const;
const customerTrades = [
  "Shellfish",
  "Salmon",
  "Timber",
  "Co-operative",
  "Island Tours",
  "Dairy",
  "Building Supplies",
  "Bakery",
  "Distillers",
  "Wool",
  "Haulage",
  "Council",
  "Community Trust",
  "Garden Produce",
  "Livestock Mart",
] as const;
const supplierTrades = [
  "Marine Fuels",
  "Chandlers",
  "Shipyard",
  "Catering Supplies",
  "Rope and Rigging",
  "Electrical",
  "Safety Equipment",
  "Paints",
  "Engineering",
  "Linen Services",
  "Radio and Radar",
  "Waste Services",
  "Stationers",
  "Cold Stores",
] as const;
const people = [
  "Aileen Marsh",
  "Benno Strand",
  "Catriona Vey",
  "Dorran Pike",
  "Effie Larch",
  "Fergan Howe",
  "Gilda Stroma",
  "Hamish Orr",
  "Ishbel Crane",
  "Jory Penhale",
  "Kester Lund",
  "Lorna Beck",
  "Murdo Sands",
  "Neave Tolland",
  "Osric Dell",
  "Perran Coe",
  "Quilla Marden",
  "Rona Firth",
  "Sorrel Vance",
  "Tavish Rook",
  "Una Braddock",
  "Verity Holme",
  "Wynn Carrow",
  "Yorick Flett",
  "Zelda Moar",
] as const;
const ranks = [
  "Master",
  "Chief officer",
  "Second officer",
  "Chief engineer",
  "Second engineer",
  "Bosun",
  "Able seaman",
  "Steward",
  "Cook",
] as const;
const goods: readonly (readonly [string, string, number])[] = [
  ["Marine gas oil DMA, bunkered", "l", 71],
  ["Hose crew, out of hours", "h", 18000],
  ["Environmental levy", "each", 12570],
  ["Mooring rope 48 mm, 110 m", "coil", 64500],
  ["Life-jacket, adult 150 N", "each", 4890],
  ["Hand flare, red, pack of 4", "pack", 3860],
  ["Deck paint, oxide red, 20 l", "tin", 14200],
  ["Impeller kit, sea-water pump", "each", 23375],
  ["LED deck light, IP67", "each", 8640],
  ["Galley stores, weekly hamper", "hamper", 31250],
  ["Linen hire, cabin set", "set", 425],
  ["Waste skip, emptied", "each", 18750],
  ["Hydraulic oil ISO 46, 205 l", "drum", 52900],
  ["Shackle, bow, 9.5 t", "each", 5480],
  ["Radar service visit", "visit", 61000],
  ["Toner, black", "each", 7420],
];
const cargo = [
  "chilled trailers",
  "crates of langoustine",
  "pallets of cheese",
  "timber bundles",
  "sheep, two decks",
  "builder's sand, tipped",
  "whisky casks",
  "parcel cages",
  "hay bales",
  "a workboat on a cradle",
] as const;

/** Makes the demo world; the same every time. */
export function makeWorld(seed = 20261120): World {
  const c = chance(seed);
  const records: WorldRecord[] = [];
  const add = (r: WorldRecord): WorldRecord => {
    records.push(r);
    return r;
  };
  makeShared(add);
  makeSelling("MF", c, add, { customers: 120, bookings: 400, charters: 40, claims: 30 });
  makeSelling("QS", c, add, { customers: 36, bookings: 60, charters: 0, claims: 6 });
  makeBuying("MF", c, add, { suppliers: 90, orders: 270, journals: 40 });
  makeBuying("QS", c, add, { suppliers: 34, orders: 80, journals: 12 });
  makeCrewAndStores(c, add);
  const index = new Map(records.map((r) => [`${r.company}/${r.type}/${r.key}`, r]));
  const byType = new Map<string, WorldRecord[]>();
  for (const r of records) byType.set(`${r.company}/${r.type}`, [...(byType.get(`${r.company}/${r.type}`) ?? []), r]);
  return {
    records,
    today: TODAY,
    of: (company, type) => byType.get(`${company}/${type}`) ?? [],
    get: (company, type, key) => {
      const found = index.get(`${company}/${type}/${key}`);
      if (!found) throw new Error(`no ${type} ${key}`);
      return found;
    },
  };
}

type Add = (r: WorldRecord) => WorldRecord;

function makeShared(add: Add): void {
  vessels.forEach((name, i) =>
    add({
      company: "MF",
      type: "vessel",
      key: `V-0${i + 1}`,
      title: name,
      status: "in service",
      fields: { name, imo: imoNumber(9_100_10 + i * 37), homePort: "Port Halven", category: i < 3 ? "ro-ro passenger" : "freight" },
    }),
  );
  add({
    company: "QS",
    type: "vessel",
    key: "V-21",
    title: "Workboat Limpet",
    status: "in service",
    fields: { name: "Workboat Limpet", imo: imoNumber(9_100_99), homePort: "Port Halven", category: "workboat" },
  });
  for (const [company, key, name] of [
    ["MF", "BA-1", "Operating account"],
    ["MF", "BA-2", "Wages account"],
    ["MF", "BA-3", "Euro account"],
    ["QS", "BA-7", "Quay operating account"],
    ["QS", "BA-8", "Quay deposit account"],
  ] as const) {
    add({
      company,
      type: "bankAccount",
      key,
      title: name,
      status: "open",
      fields: { name, iban: iban(Number(key.slice(3)) * 7919), currency: key === "BA-3" ? "EUR" : "GBP" },
    });
    for (let month = 1; month <= 10; month++) {
      const period = `2026-${String(month).padStart(2, "0")}`;
      add({
        company,
        type: "bankReconciliation",
        key: `${key}-${period}`,
        title: `${name} ${period}`,
        status: month < 10 ? "closed" : "open",
        fields: {
          period,
          documentDate: `${period}-28`,
          total: amountOf(4_000_000 + month * 31_417),
          currency: key === "BA-3" ? "EUR" : "GBP",
        },
        parent: { type: "bankAccount", key },
      });
    }
  }
}

function makeSelling(
  company: "MF" | "QS",
  c: Chance,
  add: Add,
  size: { customers: number; bookings: number; charters: number; claims: number },
): void {
  const base = company === "MF" ? 0 : 5000;
  const customers = named(
    c,
    size.customers,
    customerTrades,
    company === "MF"
      ? [
          ["Orrin Shellfish", 42],
          ["Halven Timber", 101],
          ["Halven timber", 288],
          ["Isle of Tarrin Council", 7],
        ]
      : [["Orrin Shellfish Landing", 42]],
  );
  const accounts = customers.map(({ name, number }) =>
    add({
      company,
      type: "customerAccount",
      key: `C-${1000 + base + number}`,
      title: name,
      status: "active",
      fields: party(c, name, 2000 + base + number),
    }),
  );
  for (const account of accounts.slice(0, Math.ceil(size.customers / 2))) {
    const name = c.pick(people);
    const alone = c.hits(0.1);
    add({
      company,
      type: "contact",
      key: `K-${account.key.slice(2)}`,
      title: name,
      status: null,
      fields: {
        name,
        jobTitle: c.pick(["Buyer", "Shipping clerk", "Accounts", "Manager"]),
        email: `${name.split(" ")[0]?.toLowerCase()}@${domain(account.title)}`,
        phone: telephone(c),
      },
      ...(alone ? {} : { parent: { type: "customerAccount", key: account.key } }),
    });
  }
  for (let i = 0; i < size.bookings; i++) {
    const account =
      i === 0 && company === "MF" ? (accounts.find((a) => a.title === "Orrin Shellfish") ?? c.pick(accounts)) : c.pick(accounts);
    const sailingDate = dayAfter(TODAY, i === 0 ? -2 : c.whole(-330, 25));
    const vessel = c.pick(vessels);
    const route = c.pick(routes);
    const load = i === 0 ? "3 chilled trailers" : `${c.whole(1, 24)} ${c.pick(cargo)}`;
    const number = company === "MF" ? 20418 - i : 60060 - i;
    const key = `B-${number}`;
    const net = c.whole(180, 6200) * 100 + c.pick([0, 50, 25, 75]);
    const money = withTax(net);
    const sailed = sailingDate <= TODAY;
    const parent = i % 40 === 39 ? undefined : { type: "customerAccount", key: account.key };
    const to = route.split(" – ")[1] ?? "";
    add({
      company,
      type: "freightBooking",
      key,
      title: `${account.title}, ${load} to ${to}`,
      status: sailed ? "sailed" : "booked",
      fields: {
        vessel,
        route,
        sailingDate,
        yourReference: `${account.title.slice(0, 2).toUpperCase()}-${c.whole(1000, 9999)}`,
        description: load,
        ...money,
        currency: "GBP",
      },
      amount: money.net,
      currency: "GBP",
      parent,
    });
    if (!sailed || c.hits(0.08)) continue;
    const loading = `L-${number - 11577}`;
    add({
      company,
      type: "loadingConfirmation",
      key: loading,
      title: `Loading ${vessel}, ${load}`,
      status: "confirmed",
      fields: { vessel, route, sailingDate, orderNumber: key, description: load },
      parent,
      follows: [{ type: "freightBooking", key }],
    });
    if (c.hits(0.06)) continue;
    const invoice = `${company === "MF" ? 31 : 81}-${String(5520 - i).padStart(4, "0")}`;
    const documentDate = dayAfter(sailingDate, c.whole(1, 4));
    add({
      company,
      type: "salesInvoice",
      key: invoice,
      title: `Invoice ${invoice} ${account.title}`,
      status: c.hits(0.7) ? "paid" : "open",
      fields: { documentNumber: invoice, documentDate, dueDate: dayAfter(documentDate, 30), orderNumber: key, ...money, currency: "GBP" },
      amount: money.total,
      currency: "GBP",
      parent,
      follows: [{ type: "loadingConfirmation", key: loading }],
    });
    if (parent && c.hits(0.06))
      add({
        company,
        type: "creditNote",
        key: `CN-${company === "MF" ? 118 + i : 700 + i}`,
        title: `Credit for ${invoice}`,
        status: "posted",
        fields: {
          documentNumber: `CN-${company === "MF" ? 118 + i : 700 + i}`,
          documentDate: dayAfter(documentDate, 9),
          orderNumber: key,
          ...withTax(Math.floor(net / 4)),
          currency: "GBP",
        },
        amount: withTax(Math.floor(net / 4)).total,
        currency: "GBP",
        parent,
        follows: [{ type: "salesInvoice", key: invoice }],
      });
    if (size.claims > 0 && i % Math.ceil(size.bookings / size.claims) === 0)
      add({
        company,
        type: "damageClaim",
        key: `DC-${(company === "MF" ? 301 : 801) + i}`,
        title: `Damage to ${load}`,
        status: c.pick(["open", "with insurer", "closed"]),
        fields: {
          vessel,
          sailingDate,
          orderNumber: key,
          description: `${c.pick(["Crushed corner", "Wet on arrival", "Short by two", "Broken seal", "Temperature above limit"])}, ${load}`,
          total: amountOf(c.whole(80, 2400) * 100),
          currency: "GBP",
        },
        parent,
        follows: [{ type: "freightBooking", key }],
      });
  }
  for (let i = 0; i < size.charters; i++) {
    const account = c.pick(accounts);
    const begins = dayAfter(TODAY, c.whole(-300, 90));
    const vessel = c.pick(vessels);
    add({
      company,
      type: "charterAgreement",
      key: `CH-${410 + i}`,
      title: `${account.title}, ${vessel} ${begins}`,
      status: begins <= TODAY ? "done" : "agreed",
      fields: {
        vessel,
        begins,
        ends: dayAfter(begins, c.whole(0, 3)),
        yourReference: `CT${c.whole(100, 999)}`,
        description: c.pick(["Wedding party", "Island games", "Works outing", "Film crew", "Festival shuttle"]),
        total: amountOf(c.whole(1800, 14000) * 100),
        currency: "GBP",
      },
      parent: { type: "customerAccount", key: account.key },
    });
  }
}

function makeBuying(company: "MF" | "QS", c: Chance, add: Add, size: { suppliers: number; orders: number; journals: number }): void {
  const base = company === "MF" ? 0 : 5000;
  const suppliers = named(
    c,
    size.suppliers,
    supplierTrades,
    company === "MF"
      ? [
          ["Tarrin Marine Fuels", 4],
          ["Brae & Holm Chandlers", 9],
          ["Brae & Holme Chandlery", 10],
          ["Kelder Safety Equipment", 15],
          ["Corran Shipyard", 21],
        ]
      : [
          ["Tarrin Marine Fuels", 4],
          ["Quell Cold Stores", 12],
        ],
  );
  const accounts = suppliers.map(({ name, number }) =>
    add({
      company,
      type: "supplierAccount",
      key: `S-${2000 + base + number}`,
      title: name,
      status: "active",
      fields: { ...party(c, name, 9000 + number), ...(number === 4 ? { currency: "GBP" } : {}), iban: iban(31337 + number * 104729) },
    }),
  );
  for (const account of accounts.slice(0, Math.ceil(size.suppliers / 3))) {
    const name = c.pick(people);
    add({
      company,
      type: "contact",
      key: `K-${account.key.slice(2)}`,
      title: name,
      status: null,
      fields: {
        name,
        jobTitle: c.pick(["Credit control", "Sales", "Depot manager"]),
        email: `${name.split(" ")[1]?.toLowerCase()}@${domain(account.title)}`,
        phone: telephone(c),
      },
      parent: { type: "supplierAccount", key: account.key },
    });
  }
  for (let i = 0; i < size.orders; i++) {
    const picked = i === 0 ? (accounts[0] ?? c.pick(accounts)) : c.pick(accounts);
    // A supplier of whom a few invoices are known, for their statement.
    const account = company === "MF" && i >= 60 && i < 63 ? (accounts.find((a) => a.key === "S-2010") ?? picked) : picked;
    const key = `PO-${(company === "MF" ? 6127 : 9127) - i}`;
    const orderDate = dayAfter(TODAY, i === 0 ? -6 : -c.whole(1, 320));
    const vessel = i === 0 ? vessels[0] : c.pick(vessels);
    const lines: Line[] =
      i === 0
        ? [
            { text: "Marine gas oil DMA, bunkered", quantity: 6400, unit: "l", price: 71.2 },
            { text: "Hose crew, out of hours", quantity: 1, unit: "h", price: 18000 },
            { text: "Environmental levy", quantity: 1, unit: "each", price: 12570 },
          ]
        : Array.from({ length: c.hits(0.05) ? c.whole(30, 46) : c.whole(1, 6) }, () => {
            const [text, unit, price] = c.pick(goods);
            return { text, unit, price, quantity: unit === "l" ? c.whole(4, 90) * 100 : c.whole(1, 12) };
          });
    const money = withTax(netOf(lines));
    const description = i === 0 ? `Bunkering ${vessel}` : `${lines[0]?.text.split(",")[0]}, ${vessel}`;
    const delivered = dayAfter(orderDate, i === 0 ? 3 : c.whole(1, 12));
    const isIn = i === 0 || (delivered <= TODAY && c.hits(0.85));
    const currency = account.fields["currency"] ?? "GBP";
    add({
      company,
      type: "purchaseOrder",
      key,
      title: description,
      status: isIn ? "received" : "open",
      fields: { orderDate, vessel, description, yourReference: `Q${c.whole(100, 999)}`, deliveryDate: delivered, ...money, currency },
      amount: money.net,
      currency,
      parent: { type: "supplierAccount", key: account.key },
      lines,
    });
    if (!isIn) continue;
    const receipt = `GR-${(company === "MF" ? 3900 : 7900) - i}`;
    add({
      company,
      type: "goodsReceipt",
      key: receipt,
      title: `${description}, received`,
      status: "booked",
      fields: { orderNumber: key, deliveryDate: delivered, description, site: c.pick(places) },
      parent: { type: "supplierAccount", key: account.key },
      follows: [{ type: "purchaseOrder", key }],
      lines,
    });
    if (i < 45 || c.hits(0.2)) continue;
    const invoice = `SI-${(company === "MF" ? 8800 : 12800) - i}`;
    const documentDate = dayAfter(delivered, c.whole(0, 6));
    const documentNumber = supplierNumber(account.key, i);
    const paid = dayAfter(documentDate, 30) <= TODAY;
    add({
      company,
      type: "supplierInvoice",
      key: invoice,
      title: `${account.title} ${documentNumber}`,
      status: paid ? "paid" : "posted",
      fields: { documentNumber, documentDate, dueDate: dayAfter(documentDate, 30), orderNumber: key, ...money, currency },
      amount: money.total,
      currency,
      parent: { type: "supplierAccount", key: account.key },
      follows: [{ type: "goodsReceipt", key: receipt }],
      lines,
    });
    const entry = `LE-${(company === "MF" ? 44000 : 74000) - i}`;
    add({
      company,
      type: "ledgerEntry",
      key: entry,
      title: `Posted ${documentNumber}`,
      status: "posted",
      fields: { documentNumber, documentDate, description: `${account.title}, ${description}`, total: money.total, currency },
      amount: money.total,
      currency,
      follows: [{ type: "supplierInvoice", key: invoice }],
    });
    if (paid)
      add({
        company,
        type: "payment",
        key: `PY-${(company === "MF" ? 15200 : 25200) - i}`,
        title: `Payment ${account.title}`,
        status: "sent",
        fields: {
          documentNumber,
          documentDate: dayAfter(documentDate, 30),
          total: money.total,
          currency,
          iban: account.fields["iban"] ?? "",
        },
        amount: money.total,
        currency,
        parent: { type: "supplierAccount", key: account.key },
        follows: [{ type: "supplierInvoice", key: invoice }],
      });
  }
  for (let i = 0; i < size.journals; i++) {
    const period = `2026-${String((i % 10) + 1).padStart(2, "0")}`;
    add({
      company,
      type: "journal",
      key: `J-${company}-${String(i + 1).padStart(3, "0")}`,
      title: `${c.pick(["Accruals", "Prepayments", "Depreciation", "Wages", "Fuel stock", "Intercompany"])} ${period}`,
      status: "posted",
      fields: {
        period,
        documentDate: `${period}-28`,
        description: "Month end",
        total: amountOf(c.whole(400, 90000) * 100),
        currency: "GBP",
      },
    });
  }
}

function makeCrewAndStores(c: Chance, add: Add): void {
  for (let i = 0; i < 45; i++) {
    const name = `${c.pick(people).split(" ")[0]} ${c.pick(people).split(" ")[1]}`;
    add({
      company: "MF",
      type: "crewMember",
      key: `E-${700 + i}`,
      title: name,
      status: "serving",
      fields: {
        name,
        rank: c.pick(ranks),
        vessel: c.pick(vessels),
        certificateExpires: dayAfter(TODAY, c.whole(-40, 900)),
        email: `${name.toLowerCase().replace(" ", ".")}@merrowick.example`,
        phone: telephone(c),
      },
    });
  }
  for (let i = 0; i < 60; i++) {
    const name = c.pick([
      "Life-raft 25 person",
      "Hand flare pack",
      "Parachute rocket",
      "Line thrower",
      "Galley stores",
      "Fire extinguisher 9 l",
      "Immersion suit",
      "EPIRB",
    ]);
    const batch = `${c.pick(["LR", "HF", "PR", "GS"])}${c.whole(10000, 99999)}`;
    add({
      company: i < 48 ? "MF" : "QS",
      type: "stockItem",
      key: `ST-${510 + i}`,
      title: `${name} ${batch}`,
      status: "on board",
      fields: {
        name: `${name} ${batch}`,
        category: c.pick(["safety", "galley", "deck"]),
        batch,
        expires: dayAfter(TODAY, c.whole(-20, 700)),
        vessel: c.pick(vessels),
      },
    });
  }
  for (let i = 0; i < 8; i++) {
    const begins = dayAfter(TODAY, -c.whole(10, 600));
    add({
      company: "MF",
      type: "refit",
      key: `RF-${20 + i}`,
      title: `${c.pick(["Annual docking", "Engine overhaul", "Lounge refurbishment", "Hull survey"])} ${begins.slice(0, 4)}`,
      status: i < 6 ? "finished" : "under way",
      fields: {
        begins,
        ends: dayAfter(begins, 21),
        site: "Corran Shipyard",
        description: "Docking and works",
        total: amountOf(c.whole(20, 300) * 100_000),
        currency: "GBP",
      },
      parent: { type: "vessel", key: `V-0${(i % 6) + 1}` },
    });
  }
}

/** The number a supplier's own books give an invoice: each supplier has a form of its own. */
function supplierNumber(accountKey: string, i: number): string {
  const n = Number(accountKey.slice(2));
  return (
    [`77-${3000 + i}`, `INV${20000 + i}`, `2026/${String(1000 + i)}`, `R-${500 + i}-26`, `${n}.${String(i).padStart(4, "0")}`][n % 5] ??
    `N${i}`
  );
}

/** Names made of the islands' words, each once; some are given. */
function named(
  c: Chance,
  count: number,
  trades: readonly string[],
  given: readonly (readonly [string, number])[],
): { name: string; number: number }[] {
  const list = given.map(([name, number]) => ({ name, number }));
  const names = new Set<string>(given.map(([name]) => name));
  const numbers = new Set<number>(given.map(([, number]) => number));
  for (let number = 1; list.length < count; number++) {
    if (numbers.has(number)) continue;
    let name = `${c.pick(firsts)} ${c.pick(trades)}`;
    if (names.has(name)) name = `${c.pick(firsts)} & ${name}`;
    if (names.has(name)) continue;
    names.add(name);
    list.push({ name, number });
  }
  return list;
}

function party(c: Chance, name: string, n: number): Record<string, string> {
  return {
    name,
    email: `accounts@${domain(name)}`,
    phone: telephone(c),
    vatNumber: vatNumber(n),
    address: `${c.whole(1, 60)} ${c.pick(streets)}, ${c.pick(places)}`,
    currency: c.hits(0.08) ? "EUR" : "GBP",
  };
}

const domain = (name: string): string =>
  `${name
    .toLowerCase()
    .replace(/[^a-z]+/g, "-")
    .replace(/-$/, "")}.example`;
// Numbers set aside for drama: nobody has them.
const telephone = (c: Chance): string => `01632 960${String(c.whole(0, 999)).padStart(3, "0")}`;

export function withTax(net: number): { net: string; tax: string; total: string } {
  const tax = Math.round(net * 0.2);
  return { net: amountOf(net), tax: amountOf(tax), total: amountOf(net + tax) };
}

/** Net of lines in pennies. */
export function netOf(lines: readonly Line[]): number {
  return lines.reduce((sum, l) => sum + Math.round(l.quantity * l.price), 0);
}

/** An IMO number with its check digit (weights 7 to 2). */
function imoNumber(n: number): string {
  const digits = String(n).padStart(6, "0").slice(-6);
  const sum = [...digits].reduce((s, d, i) => s + Number(d) * (7 - i), 0);
  return `${digits}${sum % 10}`;
}

/** A made-up IBAN with valid check digits; the bank code belongs to nobody. */
export function iban(n: number): string {
  const account = `MRWK${String(n % 1e14).padStart(14, "0")}`;
  const numeric = [...`${account}GB00`].map((ch) => (/[A-Z]/.test(ch) ? String(ch.charCodeAt(0) - 55) : ch)).join("");
  let rest = 0;
  for (const digit of numeric) rest = (rest * 10 + Number(digit)) % 97;
  return `GB${String(98 - rest).padStart(2, "0")}${account}`;
}

/** A made-up VAT number whose check digits are right (weights 8 to 2, from 97). */
function vatNumber(n: number): string {
  const digits = String(7_000_000 + ((n * 613) % 2_999_999)).slice(0, 7);
  const sum = [...digits].reduce((s, d, i) => s + Number(d) * (8 - i), 0);
  return `GB${digits}${String((97 - (sum % 97)) % 97).padStart(2, "0")}`;
}
