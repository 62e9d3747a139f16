import { type ContentKind, contentKinds } from "#core/arrivals/limits.ts";
import { endingOf } from "#core/filing-plan/legal-name.ts";

/** The ending a placed file gets: what its content is, or, where that says nothing, what its name said. */
export function endingFor(kind: string | null, fileName: string): string {
  const byContent = kind !== null && kind in contentKinds ? contentKinds[kind as ContentKind].ending : "";
  const own = endingOf(fileName);
  if (byContent === "") return own;
  const alike: Readonly<Record<string, readonly string[]>> = {
    ".jpg": [".jpeg"],
    ".tif": [".tiff"],
    ".heic": [".heif"],
    ".txt": [".md", ".log"],
    ".csv": [".tsv"],
  };
  return alike[byContent]?.includes(own) ? own : byContent;
}
