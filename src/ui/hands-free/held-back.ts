import { apiGet } from "../kit/api.ts";
import { differenceWords } from "./words.ts";

interface Checked {
  readonly isSample: boolean;
  readonly differences: readonly string[] | null;
}
/** Looks made for what came of the check, and the wait between them, ms: it is worked out in the background. */
const LOOKS = 8;
const WAIT_MS = 900;

/** What the program had decided for a paper that was held back, in words, once a person has filed it. Null when that does not come soon. */
export async function whatItHadDecided(code: string): Promise<string | null> {
  for (let look = 0; look < LOOKS; look++) {
    await new Promise((resolve) => setTimeout(resolve, WAIT_MS));
    const { differences } = await apiGet<Checked>(`/hands-free/papers/${code}`);
    if (differences === null) continue;
    return differences.length === 0
      ? "The program had decided the same."
      : `The program had decided otherwise: ${differences.map((d) => differenceWords[d] ?? d).join(", ")}.`;
  }
  return null;
}
