/** From this certainty on the program states a document type; below it a person is asked. Probability. Rule: docs/rules.md, Document type. */
export const TYPE_SURE_FROM = 0.8;
/** Below this certainty a proposed document type is not even chosen on the sheet: it is left open. Probability. */
export const TYPE_SHOWN_FROM = 0.45;
