import { foldText } from "../shared/fold-text.ts";

/** What a label on a document announces. Those that are no reading of ours keep a value from being taken for one. */
export const labelMeanings = [
  "documentNumber",
  "orderReference",
  "yourReference",
  "customerNumber",
  "batch",
  "otherNumber",
  "documentDate",
  "dueDate",
  "deliveryDate",
  "validUntil",
  "sailingDate",
  "otherDate",
  "net",
  "tax",
  "total",
  "paid",
  "otherAmount",
  "iban",
  "vatNumber",
  "name",
] as const;
export type LabelMeaning = (typeof labelMeanings)[number];

/**
 * Labels of English, German and French documents, folded, without points; a star stands for nothing more than is written. The number is how surely the
 * label means it, 0 to 1; the longest that fits wins.
 */
const table: Readonly<Record<LabelMeaning, readonly (readonly [certainty: number, labels: string])[]>> = {
  documentNumber: [
    [
      1,
      "invoice no|invoice number|invoice nr|invoice num|invoice #|inv no|inv number|tax invoice no|invoice id|invoice ref|invoice reference|document no|document number|doc no|doc number|bill no|bill number|credit note no|credit note number|credit no|credit memo no|statement no|statement number|delivery note no|delivery note number|delivery no|despatch note no|dispatch note no|quotation no|quote no|quotation number|quote number|offer no|confirmation no|order confirmation no|reminder no|certificate no|certificate number|cert no|survey no|report no|report number|advice no|our invoice|pro forma no|receipt no|note no|packing list no|drawing no",
    ],
    [
      1,
      "rechnungsnummer|rechnungs nr|rechnungsnr|rechnung nr|re nr|rg nr|rechnung|belegnummer|beleg nr|belegnr|gutschriftsnummer|gutschrift nr|gutschriftnummer|lieferscheinnummer|lieferschein nr|lieferscheinnr|angebotsnummer|angebot nr|angebots nr|auftragsbestatigung nr|mahnung nr|dokumentnummer|dokument nr|zertifikat nr|bescheinigung nr",
    ],
    [
      1,
      "numero de facture|facture n|facture no|facture numero|no de facture|n de facture|n facture|no facture|numero facture|avoir n|avoir no|numero d avoir|n d avoir|bon de livraison n|bon de livraison no|bl n|devis n|devis no|numero de devis|releve n|releve no|piece n|n de piece|numero du document|document n|certificat n|attestation n",
    ],
    [
      0.7,
      "payment reminder|final reminder|reminder|overdue notice|delivery note|despatch note|dispatch note|credit memo|order confirmation|order acknowledgement|statement of account|sales invoice|tax invoice|vat invoice|quotation|quote|packing list|survey report|schlussrechnung|rechnungskorrektur|auftragsbestatigung|mahnung|zahlungserinnerung|angebot|saldenmitteilung|avoir|bon de livraison|bon de livraison n|confirmation de commande|confirmation de commande n|accuse de reception de commande n|accuse de reception n|facture d avoir n|rappel n|relance n|releve de compte n|auftragsbestatigung nr|order confirmation no|accuse de reception de commande|rappel|relance|devis|facture d avoir|doc ref",
    ],
    [0.75, "number|nummer|numero|no|nr|n|#"],
    [
      0.6,
      "ref|reference|referenz|our ref|our reference|unser zeichen|unsere referenz|notre reference|notre ref|n/ref|invoice|facture|credit note|gutschrift|lieferschein|statement|certificate|id",
    ],
  ],
  orderReference: [
    [
      1,
      "your order|your order no|your order number|your purchase order|your po|customer order|customer order no|customers order no|purchase order|purchase order no|purchase order number|po|po no|po number|p o|p o no|order|order no|order number|order nr|order ref|order reference|order id|against order|for your order|your booking|booking|booking no|booking number|booking ref|buyers order no|client order",
    ],
    [
      1,
      "ihre bestellung|ihre bestellnummer|ihre bestellnr|ihre bestell nr|ihre best nr|bestellung|bestellnummer|bestell nr|bestellnr|best nr|ihr auftrag|ihre auftragsnummer|kundenbestellung|kundenauftrag|auftrag|auftragsnummer|auftrags nr|auftragsnr|buchung|buchungsnummer|bestellung nr|ihre bestellung nr",
    ],
    [
      1,
      "votre commande|votre commande n|votre commande no|commande|commande n|commande no|n de commande|no de commande|numero de commande|bon de commande|bon de commande n|votre bon de commande|votre n de commande|reservation|n de reservation",
    ],
    [0.8, "your ref|your reference|ihr zeichen|ihre referenz|ihre ref|votre reference|votre ref|v/ref"],
  ],
  yourReference: [
    [
      1,
      "our ref|our reference|our order|our order no|our job no|job no|unser zeichen|unsere referenz|unser auftrag|unsere auftragsnummer|notre reference|notre ref|n/ref|shipper ref|shippers ref|your quotation|quotation",
    ],
    [0.9, "your ref|your reference|ihr zeichen|ihre referenz|ihre ref|votre reference|votre ref|v/ref|reference|ref"],
  ],
  customerNumber: [
    [
      1,
      "customer no|customer number|customer id|customer|customer account|customer code|cust no|account|account no|account number|account ref|account code|client no|client number|a/c|a/c no|ac no|your account|kundennummer|kunden nr|kundennr|kd nr|kdnr|debitor|debitorennummer|debitor nr|ihre kundennummer|numero client|n client|no client|code client|client|compte client|ref client",
    ],
  ],
  batch: [[1, "batch|batch no|batch number|lot|lot no|charge|chargen nr|chargennummer|lot n|n de lot|numero de lot|batch stated"]],
  otherNumber: [
    [
      1,
      "tel|telephone|phone|fax|mobile|mob|telefon|telefax|handy|tel no|portable|imo|imo no|imo number|page|seite|sort code|bic|swift|swift bic|bic swift|blz|bank code|code banque|code guichet|registered no|registered number|company no|company number|company reg no|co reg no|reg no|registration no|company registration|registered in|hrb|hra|handelsregister|amtsgericht|steuernummer|steuer nr|st nr|siret|siren|rcs|naf|ape|code naf|capital|po box|postfach|bp|eori|eori no|duns|item|item no|article|article no|artikel|artikelnummer|art nr|pos|position|code|sku|qty|quantity|menge|quantite|cheque no|account name|bank account|kontonummer|konto|konto nr|kto nr|n de compte|dept|postcode|plz|trailer|unit|units|crates|kg|deck|berth|room|unit price",
    ],
  ],
  documentDate: [
    [
      1,
      "invoice date|date of invoice|document date|doc date|date of issue|issue date|issued|issued on|issued at|statement date|date issued|tax point|tax date|bill date|date of document|credit note date|certificate date|delivery note date|quotation date|quote date|order confirmation date|rechnungsdatum|re datum|belegdatum|ausstellungsdatum|datum|ausgestellt am|gutschriftsdatum|lieferscheindatum|angebotsdatum|date de facture|date de la facture|date facture|date d emission|date de facturation|emise le|emis le|date du document|facture du|le|as at|as of|statement as at|stand|stand vom|zum|arrete au|date du releve",
    ],
    [0.9, "date|dated|vom|du|invoice date/tax point|date/tax point"],
  ],
  dueDate: [
    [
      1,
      "due|due date|date due|payment due|payment due by|payment due date|pay by|payable by|due by|due on|to be paid by|please pay by|please pay before|payment by|fallig|fallig am|fallig bis|falligkeit|falligkeitsdatum|zahlbar bis|zahlbar bis zum|zahlungsziel|zu zahlen bis|bitte zahlen bis|bitte uberweisen sie bis|zahlbar|echeance|date d echeance|date echeance|a payer avant le|a payer avant|a regler avant le|payable au plus tard le|payable avant le|date limite de paiement|reglement le|a echeance du|a payer pour le",
    ],
  ],
  deliveryDate: [
    [
      1,
      "delivered|delivered on|delivery date|date of delivery|delivery|date of supply|supply date|despatched|dispatched|despatch date|dispatch date|shipped|ship date|shipping date|date shipped|received on|service date|date of service|work done|work date|lieferdatum|leistungsdatum|liefertag|geliefert am|lieferung am|lieferung vom|liefer/leistungsdatum|liefer und leistungsdatum|leistung vom|versanddatum|date de livraison|livre le|livraison|livraison le|livraison du|date de la prestation|date de prestation|expedie le|date d expedition",
    ],
  ],
  validUntil: [
    [
      1,
      "valid until|valid to|expires|expires on|expiry|expiry date|expiration date|valid till|gultig bis|gueltig bis|lauft ab am|ablaufdatum|valable jusqu au|valable jusqu|expire le|date d expiration|best before|until",
    ],
  ],
  sailingDate: [
    [
      1,
      "sailing|sailing date|sails|sails on|sailing on|departure|etd|date of sailing|abfahrt|abfahrtsdatum|depart|date de depart|crossing",
    ],
  ],
  otherDate: [
    [
      1,
      "order date|ordered|ordered on|date of order|your order of|order of|order dated|wanted by|wanted on|bestelldatum|bestellt am|auftragsdatum|date de commande|date de la commande|commande du|printed|printed on|print date|date of birth|born|geburtsdatum|ne le|from|to|period|period from|zeitraum|periode|contract date|begins|ends|start|end|since|seit|depuis|gedruckt am|imprime le|eta|arrival|date received|received",
    ],
  ],
  net: [
    [
      1,
      "net|net total|net amount|total net|subtotal|sub total|sub-total|goods total|total excl vat|total excluding vat|total ex vat|amount excl vat|amount before tax|total before vat|total before tax|taxable amount|total goods|nett|nett total|total exclusive of vat|value of goods|netto|nettobetrag|netto summe|nettosumme|summe netto|gesamt netto|netto gesamt|zwischensumme|warenwert|summe|total ht|total h t|montant ht|montant total ht|sous total|sous-total|net ht|total net ht|base ht|total hors taxes|total hors taxe|montant hors taxes|net hors taxes",
    ],
  ],
  tax: [
    [
      1,
      "vat|v a t|vat amount|total vat|vat total|tax|tax amount|total tax|sales tax|plus vat|value added tax|output vat|gst|mwst|mwst betrag|umsatzsteuer|ust|mehrwertsteuer|zzgl mwst|zzgl ust|zzgl umsatzsteuer|steuer|steuerbetrag|mwst gesamt|zuzuglich mwst|tva|montant tva|total tva|t v a|montant de la tva|dont tva",
    ],
  ],
  total: [
    [
      1,
      "total due|amount due|total amount due|balance due|grand total|gross total|total gross|total incl vat|total including vat|total inc vat|invoice total|total invoice|amount payable|total payable|total amount|to pay|please pay|gross amount|gross|total to pay|payable|amount to pay|total inclusive of vat|invoice amount|amount owing|total now due|now due|total credit|credit total|closing balance|balance outstanding|total outstanding|statement balance|gesamtbetrag|rechnungsbetrag|bruttobetrag|gesamt brutto|brutto gesamt|summe brutto|brutto|endbetrag|zu zahlen|zahlbetrag|gesamtsumme|zu zahlender betrag|rechnungssumme|endsumme|gesamt|offener betrag|zu zahlen eur|gutschriftsbetrag|total ttc|montant ttc|total t t c|montant total ttc|net a payer|net a payer ttc|montant a payer|total a payer|solde|solde du|solde a payer|total general|total facture|montant total|net a regler",
    ],
    [0.85, "total|balance|amount|betrag|montant|sum|totale"],
  ],
  paid: [
    [
      1,
      "paid|amount paid|payment received|payments received|already paid|deposit|less deposit|less paid|prepaid|bezahlt|bereits bezahlt|anzahlung|abzuglich anzahlung|acompte|deja paye|deja regle|acompte verse|brought forward|opening balance|previous balance|carried forward|ubertrag|report",
    ],
  ],
  otherAmount: [
    [
      1,
      "discount|rabatt|skonto|remise|escompte|carriage|freight|shipping|postage|delivery charge|versand|versandkosten|fracht|porto|frais de port|port|price|unit price|rate|preis|einzelpreis|prix|prix unitaire|pu|qty|quantity|menge|quantite|hours|days|weight|gewicht|poids|capital social|capital|length|packed|exchange rate|saved|savings|per|each",
    ],
  ],
  iban: [[1, "iban|iban no|account|bank|konto|compte"]],
  vatNumber: [
    [
      1,
      "vat no|vat number|vat reg no|vat registration|vat registration no|vat registration number|vat reg|vat id|vat|ust id|ust idnr|ust id nr|ustid|ust-id|umsatzsteuer id|umsatzsteuer identifikationsnummer|uid|n tva|no tva|tva intracommunautaire|n tva intracommunautaire|tva intra|numero de tva|id tva|tva",
    ],
  ],
  name: [[1, "vessel|vessel name|ship|schiff|navire|mv"]],
};

/** What a label means and how surely. */
export interface Meaning {
  readonly meaning: LabelMeaning;
  readonly certainty: number;
  /** Words of the label. */
  readonly length: number;
}

const known = new Map<string, Meaning[]>();
for (const meaning of labelMeanings)
  for (const [certainty, labels] of table[meaning])
    for (const label of labels.split("|"))
      known.set(label, [...(known.get(label) ?? []), { meaning, certainty, length: label.split(" ").length }]);

/** Words of the longest label. */
export const LABEL_WORDS = 6;

/** Texts whose folded form is remembered: the words of a document are asked for many times over. */
const REMEMBERED = 20_000;
const remembered = new Map<string, string>();

/** A label as the table has it: folded, without points, colons, hyphens and the sign of "number". */
export function foldLabel(text: string): string {
  const before = remembered.get(text);
  if (before !== undefined) return before;
  if (remembered.size >= REMEMBERED) remembered.clear();
  const folded = foldAnew(text);
  remembered.set(text, folded);
  return folded;
}

function foldAnew(text: string): string {
  return foldText(text.replace(/№/g, " n ").replace(/[°º]/g, " "))
    .replace(/['’`.:;,()\-–*|=_]+/g, " ")
    .replace(/\s+/g, " ")
    .replace(/(?<=.)#|#(?=.)/g, " #")
    .replace(/\s+/g, " ")
    .trim();
}

/** What a text that is a label from end to end means; empty when it is none. */
export function meaningsOf(label: string): readonly Meaning[] {
  return known.get(foldLabel(label)) ?? [];
}

/** What the label at the end of a run of words means: the longest that fits, such as "your order" in "for your order". */
export function meaningsAtEnd(words: readonly string[]): readonly Meaning[] {
  const tail = foldLabel(words.slice(-LABEL_WORDS).join(" ")).split(" ");
  for (let from = 0; from < tail.length; from++) {
    const found = known.get(tail.slice(from).join(" "));
    if (found) return found;
  }
  return [];
}

/** The label a run of words begins with, the longest first: "VAT 20 %" begins with "vat". */
export function meaningsAtStart(words: readonly string[]): readonly Meaning[] {
  const head = foldLabel(words.slice(0, LABEL_WORDS + 1).join(" ")).split(" ");
  for (let to = head.length; to > 0; to--) {
    const found = known.get(head.slice(0, to).join(" "));
    if (found) return found;
  }
  return [];
}
