/** Texts as one PostgreSQL array literal: one parameter, however many there are. */
export function textArray(values: readonly string[]): string {
  return `{${values.map((v) => `"${v.replace(/(["\\])/g, "\\$1")}"`).join(",")}}`;
}

/** Whole numbers as one PostgreSQL array literal. */
export function idArray(values: readonly number[]): string {
  return `{${values.join(",")}}`;
}
