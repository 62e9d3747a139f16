/** A page of a stack, as far as it matters for sorting by codes. */
export interface StackPage {
  readonly number: number;
  readonly blank: boolean;
  /** What its code says, if it has one that says something. */
  readonly said: { readonly begins: boolean; readonly leftOut: boolean; readonly text: string } | null;
}

/** Pages of a stack that belong together, and the code that says what they are (null before the first). */
export interface StackGroup {
  readonly code: string | null;
  readonly pages: readonly number[];
}

/**
 * Sorts a stack by the codes on its pages: each that begins something takes the pages behind it, up to the next. Sheets that are only there for
 * their code are left out, blank pages too where `leavesOutBlanks` says so; groups with nothing left are none. Every page is in a group or dropped.
 */
export function groupByCodes(
  pages: readonly StackPage[],
  leavesOutBlanks: boolean,
): { readonly groups: readonly StackGroup[]; readonly dropped: readonly number[] } {
  const groups: { code: string | null; pages: number[] }[] = [{ code: null, pages: [] }];
  const dropped: number[] = [];
  for (const page of pages) {
    if (page.said?.begins === true) groups.push({ code: page.said.text, pages: [] });
    if (page.said?.leftOut === true || (page.blank && leavesOutBlanks)) dropped.push(page.number);
    else groups.at(-1)?.pages.push(page.number);
  }
  return { groups: groups.filter((g) => g.pages.length > 0), dropped };
}
