import { parseFind } from "./parse-find.ts";

/** Letters that stay of a long word, and the most that are cut off its end. */
const STAYS_MIN = 4;
const CUT_MAX = 3;

/**
 * A wider question for one that found nothing: each longer word by its beginning, so that bunkering finds bunkered. Null when there is
 * nothing to widen. Words that were quoted, cut already or hold figures stay as they are: those are meant to the letter.
 */
export function widenFind(typed: string): string | null {
  let wider = false;
  const words = parseFind(typed).terms.map((t) => {
    const text = t.words.join(" ");
    const quoted = t.words.length > 1 ? `"${text}"` : text;
    const plain = t.words.length === 1 && !t.prefix && !t.not && !/\d/.test(text) && text.length > STAYS_MIN;
    if (!plain) return `${t.not ? "-" : ""}${quoted}${t.prefix ? "*" : ""}`;
    wider = true;
    return `${text.slice(0, Math.max(STAYS_MIN, text.length - CUT_MAX))}*`;
  });
  return wider ? words.join(" ") : null;
}
