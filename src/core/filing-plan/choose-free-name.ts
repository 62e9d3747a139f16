import { foldName, type NamingLimits, numberedName } from "./legal-name.ts";

/**
 * The first name that is free in a folder: the name itself, else "name (2)", "name (3)" and so on.
 * `taken` holds folded names. Ends always: there are more numbers than names.
 */
export function chooseFreeName(name: string, ending: string, taken: ReadonlySet<string>, limits: NamingLimits): string {
  if (!taken.has(foldName(name))) return name;
  for (let number = 2; ; number++) {
    const candidate = numberedName(name, ending, number, limits);
    if (!taken.has(foldName(candidate))) return candidate;
  }
}
