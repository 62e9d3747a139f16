/** The type offered for a record: the queue's own when it is usual there, else the first usual one. */
export function usualType(
  types: readonly { readonly key: string; readonly usualFor: readonly string[] }[],
  recordType: string,
  queue: string | undefined,
): string {
  const usual = types.filter((t) => t.usualFor.includes(recordType));
  const byQueue: Readonly<Record<string, readonly string[]>> = {
    payables: ["supplierInvoice", "supplierStatement", "deliveryNote"],
    "sales-desk": ["bookingRequest", "packingList", "letter"],
    "quay-office": ["loadingList", "temperatureLog"],
    "crew-office": ["medicalCertificate", "certificate"],
  };
  return byQueue[queue ?? ""]?.find((k) => usual.some((t) => t.key === k)) ?? usual[0]?.key ?? "";
}
