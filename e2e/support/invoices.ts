import type { WorldRecord, World } from "#scenario/world.ts";

/** An invoice as a supplier of the demo world writes it, for one of its orders. */
export function invoiceOf(
  world: World,
  order: WorldRecord,
  number: string,
  over: { readonly iban?: string; readonly more?: readonly string[] } = {},
): readonly string[] {
  const supplier = world.get(order.company, "supplierAccount", order.parent?.key ?? "");
  return [
    supplier.title,
    supplier.fields["email"] ?? "",
    "INVOICE",
    ...(over.more ?? [`Invoice No. ${number}`]),
    "Invoice date: 19 November 2026",
    "Merrowick Ferries Ltd",
    `Your order: ${order.key}`,
    `Net ${order.fields["net"] ?? ""}`,
    `VAT 20 % ${order.fields["tax"] ?? ""}`,
    `Total ${order.currency ?? "GBP"} ${order.fields["total"] ?? ""}`,
    `IBAN ${over.iban ?? supplier.fields["iban"] ?? ""}`,
  ];
}
