"use client";
import { Icon } from "../kit/icon.tsx";
import { useMe } from "../people/me-context.tsx";

/** The record types beside what is set up for one of them, each with how much there is, or that it is changed and not saved. */
export function TypeNav({
  current,
  isChanged,
  countOf,
  onChoose,
}: {
  current: string;
  isChanged: (type: string) => boolean;
  countOf: (type: string) => number;
  onChoose: (type: string) => void;
}) {
  const { me } = useMe();
  return (
    <nav className="scroll py-2" aria-label="Record types">
      {me.recordTypes.map((t) => (
        <button
          key={t.key}
          type="button"
          aria-current={t.key === current ? "true" : undefined}
          className={`paper-row border-0 ${t.key === current ? "is-chosen" : ""}`}
          style={{ gridTemplateColumns: "22px minmax(0, 1fr) auto" }}
          onClick={() => onChoose(t.key)}
        >
          <Icon name={t.icon} size={17} />
          <span className="name">{t.plural}</span>
          {isChanged(t.key) ? <span className="chip amber">changed</span> : <span className="text-2 mono">{countOf(t.key) || ""}</span>}
        </button>
      ))}
    </nav>
  );
}
