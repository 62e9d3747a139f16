/**
 * A part's file name with the ending of what it is now: a name that ends otherwise gets it. `ending` null leaves the name as it is: the part is a
 * source untouched.
 */
export function keepEnding(name: string, ending: string | null): string {
  if (ending === null || name.toLowerCase().endsWith(ending)) return name;
  return `${name.replace(/\.(pdf|jpe?g|png|tiff?|webp|gif|hei[cf])$/i, "")}${ending}`;
}
