"use client";
import { useMutation, useQueries } from "@tanstack/react-query";
import { useRouter } from "next/navigation";
import { useState } from "react";
import { Button, Dropdown, Form } from "react-bootstrap";
import { BookmarkPlus, Trash } from "react-bootstrap-icons";
import type { Preferences } from "#server/settings/load-settings.ts";
import { apiGet, queryOf, savePreferences } from "../kit/api.ts";
import { Icon } from "../kit/icon.tsx";
import { Link } from "../kit/link.tsx";
import { useNotices } from "../kit/notices.tsx";
import { useMe } from "../people/me-context.tsx";
import { windowOf } from "./day-windows.ts";

type Saved = Preferences["savedFilters"][number];
/** The address of the list that a kept filter stands for. */
const hrefOf = (f: Saved): string => `/records/${f.type}${queryOf(f.query)}`;

/** Keeps the filter that is shown under a name, and leads to those that were kept for this record type. */
export function SavedFilters({ type, query }: { type: string; query: Readonly<Record<string, string>> }) {
  const { me } = useMe();
  const router = useRouter();
  const notices = useNotices();
  const [label, setLabel] = useState("");
  const [kept, setKept] = useState(me.preferences.savedFilters);
  const save = useMutation({
    mutationFn: (savedFilters: readonly Saved[]) => savePreferences({ savedFilters: [...savedFilters] }),
    onSuccess: ({ savedFilters }) => {
      setKept(savedFilters);
      setLabel("");
      router.refresh();
    },
    onError: notices.wrong,
  });
  const mine = kept.filter((f) => f.type === type);
  return (
    <Dropdown autoClose="outside">
      <Dropdown.Toggle size="sm" variant="plain">
        <BookmarkPlus aria-hidden="true" /> Saved filters {mine.length > 0 ? mine.length : ""}
      </Dropdown.Toggle>
      <Dropdown.Menu style={{ minWidth: 300 }}>
        {mine.map((f) => (
          <div key={f.label} className="d-flex align-items-center">
            <Dropdown.Item as={Link} href={hrefOf(f)} className="flex-grow-1">
              {f.label}
            </Dropdown.Item>
            <Button size="sm" variant="quiet" aria-label={`Delete ${f.label}`} onClick={() => save.mutate(kept.filter((x) => x !== f))}>
              <Trash />
            </Button>
          </div>
        ))}
        {mine.length > 0 ? <Dropdown.Divider /> : null}
        <Form
          className="d-flex gap-2 px-3 py-1"
          onSubmit={(e) => {
            e.preventDefault();
            if (label.trim() !== "")
              save.mutate([...kept.filter((f) => f.type !== type || f.label !== label.trim()), { label: label.trim(), type, query }]);
          }}
        >
          <Form.Control
            size="sm"
            maxLength={60}
            aria-label="Filter name"
            placeholder="Save filter as"
            value={label}
            onChange={(e) => setLabel(e.target.value)}
          />
          <Button size="sm" type="submit" disabled={label.trim() === "" || save.isPending}>
            Save
          </Button>
        </Form>
      </Dropdown.Menu>
    </Dropdown>
  );
}

/** The kept filters with how many records fit each today, for the desk. */
export function KeptFilterCounts() {
  const { me, company, recordType } = useMe();
  const filters = me.preferences.savedFilters;
  const counts = useQueries({
    queries: filters.map((f) => {
      const { when, ...rest } = f.query;
      const wish = { company, ...rest, ...windowOf(when), type: f.type, limit: 1 };
      return {
        queryKey: ["records", "count", wish],
        queryFn: () => apiGet<{ total: number; totalIsExact: boolean }>(`/records${queryOf(wish)}`),
      };
    }),
  });
  if (filters.length === 0) return null;
  return (
    <section className="mb-4" aria-labelledby="desk-filters">
      <h3 id="desk-filters" className="pb-1 mb-0" style={{ borderBottom: "1px solid var(--ink-1)" }}>
        Saved filters
      </h3>
      {filters.map((f, i) => (
        <Link key={f.type + f.label} href={hrefOf(f)} className="type-row" style={{ gridTemplateColumns: "24px minmax(0, 1fr) auto" }}>
          <Icon name={recordType(f.type)?.icon ?? ""} />
          <span>
            <strong>{f.label}</strong> <span className="text-2">{recordType(f.type)?.plural}</span>
          </span>
          <span className="num">
            {counts[i]?.data?.total.toLocaleString("en-GB") ?? ""}
            {counts[i]?.data?.totalIsExact === false ? "+" : ""}
          </span>
        </Link>
      ))}
    </section>
  );
}
