import type { ReadingOrder } from "#core/sections/reading-order.ts";
import type { SectionInput } from "#core/sections/section-tree.ts";

/** What the documents of records of Merrowick Sound stand under. Types that are not here go by document type. */
export const sections: Readonly<Record<string, readonly SectionInput[]>> = {
  freightBooking: [
    {
      key: "order",
      label: "Order",
      icon: "cart",
      show: "always",
      documentTypes: ["bookingRequest", "bookingConfirmation", "packingList", "quotation"],
    },
    {
      key: "loading",
      label: "Loading",
      icon: "box-seam",
      show: "always",
      documentTypes: ["loadingList", "temperatureLog", "dangerousGoodsNote", "customsForm"],
      sections: [{ key: "pictures", label: "Pictures", icon: "camera", documentTypes: ["photo"] }],
    },
    {
      key: "money",
      label: "Invoice and payment",
      icon: "receipt",
      show: "always",
      documentTypes: ["salesInvoice", "creditNote", "remittanceAdvice", "reminder"],
    },
    { key: "claims", label: "Claims", icon: "shield-exclamation", documentTypes: ["claimForm", "surveyReport"], tint: "rust" },
    { key: "letters", label: "Letters and calls", icon: "chat-square-quote", documentTypes: ["letter", "mail", "activity"] },
  ],
  damageClaim: [
    {
      key: "claim",
      label: "Claim",
      icon: "shield-exclamation",
      show: "always",
      documentTypes: ["claimForm", "letter", "mail", "activity"],
    },
    {
      key: "evidence",
      label: "Evidence",
      icon: "camera",
      show: "always",
      documentTypes: ["photo", "surveyReport", "temperatureLog", "loadingList"],
    },
    { key: "settlement", label: "Settlement", icon: "receipt", documentTypes: ["creditNote", "salesInvoice"] },
  ],
  crewMember: [
    { key: "contract", label: "Contract", icon: "person-badge", show: "always", documentTypes: ["crewContract"] },
    {
      key: "certificates",
      label: "Certificates",
      icon: "patch-check",
      show: "always",
      documentTypes: ["medicalCertificate", "certificate"],
      growsBy: { of: "validUntil", by: "year" },
    },
    {
      key: "reviews",
      label: "Reviews",
      icon: "journal-text",
      documentTypes: ["appraisal"],
      growsBy: { of: "documentDate", by: "year" },
      tint: "plum",
    },
  ],
};

/** Orders in which the documents of some record types are read. */
export const readingOrders: Readonly<Record<string, readonly ReadingOrder[]>> = {
  damageClaim: [
    {
      key: "review",
      label: "Claim review",
      documentTypes: ["claimForm", "photo", "surveyReport", "loadingList", "packingList", "bookingRequest", "salesInvoice"],
      rest: "after",
    },
  ],
};
