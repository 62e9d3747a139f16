import { Link } from "../kit/link.tsx";
const parts = [
  { key: "folders", label: "Folders", href: "/filing-plan" },
  { key: "checklists", label: "Checklists", href: "/filing-plan/checklists" },
  { key: "sections", label: "Sections", href: "/filing-plan/sections" },
] as const;

/** The parts of the filing plan, beside each other in the top line. */
export function PlanTabs({ current }: { current: (typeof parts)[number]["key"] }) {
  return (
    <nav className="d-flex gap-1" aria-label="Parts of the filing plan">
      {parts.map((p) => (
        <Link
          key={p.key}
          href={p.href}
          className={`chip ${p.key === current ? "btn-on" : ""}`}
          aria-current={p.key === current ? "page" : undefined}
        >
          {p.label}
        </Link>
      ))}
    </nav>
  );
}
