/** The address of a record's page. */
export function recordHref(r: { readonly company: string; readonly type: string; readonly key: string }): string {
  return `/records/${r.type}/${encodeURIComponent(r.key)}?company=${r.company}`;
}

/** The API's address of a record, or of something below it. */
export function recordPath(r: { readonly company: string; readonly type: string; readonly key: string }, below = ""): string {
  return `/records/${r.type}/${encodeURIComponent(r.key)}${below}`;
}
