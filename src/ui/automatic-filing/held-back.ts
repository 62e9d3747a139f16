import { apiGet } from "../kit/api.ts";
import { differenceWords } from "./words.ts";

interface Checked {
  readonly isSample: boolean;
  readonly differences: readonly string[] | null;
}
/** Waits between looks for what came of the check, ms: it is worked out in the background, within a second or two unless there is much to do. */
const WAITS_MS = [900, 900, 1200, 1500, 2000, 3000, 5000, 8000, 12_000, 15_000];

/** What the program had decided for a document that was held back, in words, once a person has filed it. Null when that does not come soon. */
export async function whatItHadDecided(code: string): Promise<string | null> {
  for (const wait of WAITS_MS) {
    await new Promise((resolve) => setTimeout(resolve, wait));
    const { differences } = await apiGet<Checked>(`/hands-free/papers/${code}`);
    if (differences === null) continue;
    return differences.length === 0
      ? "Automatic filing would have done the same."
      : `Automatic filing would have filed it differently: ${differences.map((d) => differenceWords[d] ?? d).join(", ")}.`;
  }
  return null;
}
