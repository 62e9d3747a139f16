"use client";
import { Dropdown } from "react-bootstrap";
import { SortDown } from "react-bootstrap-icons";
import { sourceWords } from "../kit/words.ts";

export const sorts = ["newest", "oldest", "name", "largest", "pages"] as const;
const sortWords: Readonly<Record<(typeof sorts)[number], string>> = {
  newest: "Newest first",
  oldest: "Oldest first",
  name: "By name",
  largest: "Largest first",
  pages: "Most pages first",
};
/** How they are put together under headings; each goes with an order. */
export const groupings = ["none", "sender", "source", "day"] as const;
const groupWords: Readonly<Record<(typeof groupings)[number], string>> = {
  none: "No grouping",
  sender: "Grouped by sender",
  source: "Grouped by source",
  day: "Grouped by day",
};
const groupShort: Readonly<Record<(typeof groupings)[number], string>> = {
  none: "",
  sender: "By sender",
  source: "By source",
  day: "By day",
};
/** Which of the waiting ones are shown. */
export const shows = ["all", "ready", "sure", "problem"] as const;

interface WaitingWish {
  readonly sort: (typeof sorts)[number];
  readonly show: (typeof shows)[number];
  readonly group: (typeof groupings)[number];
  readonly mine: boolean;
  readonly source: string;
}

/** In which order, which of them, and from where: the menu above the list of what waits. */
export function WaitingFilter({
  filter,
  onChange,
}: {
  filter: WaitingWish;
  onChange: (change: { readonly [K in keyof WaitingWish]?: WaitingWish[K] | null }) => void;
}) {
  const shown = filter.mine
    ? "Assigned to me"
    : filter.group !== "none"
      ? groupShort[filter.group]
      : filter.show === "all"
        ? sortWords[filter.sort]
        : filter.show === "ready"
          ? "Ready only"
          : filter.show === "sure"
            ? "Certain only"
            : "Problems only";
  return (
    <Dropdown>
      <Dropdown.Toggle variant="quiet" aria-label={`Sort and filter: ${shown}`}>
        <SortDown aria-hidden="true" /> {shown}
      </Dropdown.Toggle>
      <Dropdown.Menu>
        {sorts.map((s) => (
          <Dropdown.Item key={s} active={filter.sort === s} onClick={() => onChange({ sort: s })}>
            {sortWords[s]}
          </Dropdown.Item>
        ))}
        <Dropdown.Divider />
        {groupings.map((g) => (
          <Dropdown.Item key={g} active={filter.group === g} onClick={() => onChange({ group: g === "none" ? null : g })}>
            {groupWords[g]}
          </Dropdown.Item>
        ))}
        <Dropdown.Divider />
        <Dropdown.Item active={filter.mine} onClick={() => onChange({ mine: filter.mine ? null : true })}>
          Only those assigned to me
        </Dropdown.Item>
        <Dropdown.Item active={filter.show === "all"} onClick={() => onChange({ show: null })}>
          All waiting
        </Dropdown.Item>
        <Dropdown.Item active={filter.show === "ready"} onClick={() => onChange({ show: "ready" })}>
          Ready only
        </Dropdown.Item>
        <Dropdown.Item active={filter.show === "sure"} onClick={() => onChange({ show: "sure" })}>
          Certain only
        </Dropdown.Item>
        <Dropdown.Item active={filter.show === "problem"} onClick={() => onChange({ show: "problem" })}>
          Problems only
        </Dropdown.Item>
        <Dropdown.Divider />
        {["", ...Object.keys(sourceWords)].map((s) => (
          <Dropdown.Item key={s} active={filter.source === s} onClick={() => onChange({ source: s || null })}>
            {s === "" ? "All sources" : `From ${sourceWords[s]}`}
          </Dropdown.Item>
        ))}
      </Dropdown.Menu>
    </Dropdown>
  );
}
