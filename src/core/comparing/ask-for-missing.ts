import type { StatedLine } from "./compare-statement.ts";

/** A mail that is ready to be sent by a person. */
export interface PreparedMail {
  readonly to: string | null;
  readonly subject: string;
  readonly body: string;
}

const words = {
  en: {
    subject: (one: boolean, numbers: string) => (one ? `Copy of invoice ${numbers}` : `Copies of invoices ${numbers}`),
    dear: "Good day",
    ask: (one: boolean, on: string | null) =>
      `your statement${on ? ` of ${on}` : ""} lists ${one ? "an invoice that we do not have" : "invoices that we do not have"}. Please send us ${one ? "a copy" : "copies"} of:`,
    row: (number: string, date: string | null, amount: string | null) =>
      `- ${number}${date ? `, dated ${date}` : ""}${amount ? `, ${amount}` : ""}`,
    differs: "For these we have a different amount; please let us know which is right:",
    odd: (number: string, stated: string, ours: string) => `- ${number}: ${stated} on your statement, ${ours} on the invoice`,
    end: "Kind regards",
  },
  de: {
    subject: (one: boolean, numbers: string) => (one ? `Kopie der Rechnung ${numbers}` : `Kopien der Rechnungen ${numbers}`),
    dear: "Guten Tag",
    ask: (one: boolean, on: string | null) =>
      `auf Ihrem Kontoauszug${on ? ` vom ${on}` : ""} ${one ? "steht eine Rechnung, die uns fehlt" : "stehen Rechnungen, die uns fehlen"}. Bitte senden Sie uns ${one ? "eine Kopie" : "Kopien"} von:`,
    row: (number: string, date: string | null, amount: string | null) =>
      `- ${number}${date ? ` vom ${date}` : ""}${amount ? `, ${amount}` : ""}`,
    differs: "Bei diesen haben wir einen anderen Betrag; bitte teilen Sie uns mit, welcher richtig ist:",
    odd: (number: string, stated: string, ours: string) => `- ${number}: ${stated} auf dem Kontoauszug, ${ours} auf der Rechnung`,
    end: "Mit freundlichen Grüßen",
  },
  fr: {
    subject: (one: boolean, numbers: string) => (one ? `Copie de la facture ${numbers}` : `Copies des factures ${numbers}`),
    dear: "Bonjour",
    ask: (one: boolean, on: string | null) =>
      `votre relevé${on ? ` du ${on}` : ""} mentionne ${one ? "une facture que nous n’avons pas" : "des factures que nous n’avons pas"}. Merci de nous envoyer ${one ? "une copie" : "des copies"} de :`,
    row: (number: string, date: string | null, amount: string | null) =>
      `- ${number}${date ? ` du ${date}` : ""}${amount ? `, ${amount}` : ""}`,
    differs: "Pour celles-ci nous avons un autre montant ; merci de nous indiquer lequel est juste :",
    odd: (number: string, stated: string, ours: string) => `- ${number} : ${stated} sur le relevé, ${ours} sur la facture`,
    end: "Cordialement",
  },
} as const;

/** A day as the mail's language writes it. */
function dayIn(language: "en" | "de" | "fr", day: string | null): string | null {
  if (day === null) return null;
  const [year = "", month = "", date = ""] = day.split("-");
  if (language === "de") return `${Number(date)}.${Number(month)}.${year}`;
  if (language === "fr") return `${date}/${month}/${year}`;
  const names = ["January", "February", "March", "April", "May", "June", "July", "August", "September", "October", "November", "December"];
  return `${Number(date)} ${names[Number(month) - 1] ?? month} ${year}`;
}

/** Numbers named in a subject before it says "and others". */
const SUBJECT_NUMBERS = 3;

/** A mail that asks for invoices that a statement lists and we do not have, in the statement's language. Null when nothing is missing or differs. */
export function askForMissing(asked: {
  readonly lines: readonly StatedLine[];
  readonly to: string | null;
  readonly language: string | null;
  readonly asOf: string | null;
  readonly currency: string | null;
  readonly signature: string;
}): PreparedMail | null {
  const missing = asked.lines.filter((l) => l.state === "missing");
  const odd = asked.lines.filter((l) => l.state === "other-amount" && l.amount !== null && l.known?.total != null);
  if (missing.length + odd.length === 0) return null;
  const language = asked.language === "de" ? "de" : asked.language === "fr" ? "fr" : "en";
  const w = words[language];
  const money = (amount: string | null): string | null =>
    amount === null ? null : asked.currency === null ? amount : `${asked.currency} ${amount}`;
  const about = missing.length > 0 ? missing : odd;
  const numbers =
    about
      .slice(0, SUBJECT_NUMBERS)
      .map((l) => l.number)
      .join(", ") + (about.length > SUBJECT_NUMBERS ? " …" : "");
  const parts: string[] = [`${w.dear},`, ""];
  if (missing.length > 0)
    parts.push(
      w.ask(missing.length === 1, dayIn(language, asked.asOf)),
      "",
      ...missing.map((l) => w.row(l.number, dayIn(language, l.date), money(l.amount))),
      "",
    );
  if (odd.length > 0)
    parts.push(w.differs, "", ...odd.map((l) => w.odd(l.number, money(l.amount) ?? "", money(l.known?.total ?? null) ?? "")), "");
  parts.push(w.end, asked.signature);
  return { to: asked.to, subject: w.subject(about.length === 1, numbers), body: parts.join("\n") };
}
