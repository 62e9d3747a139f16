"use client";
import { useQuery } from "@tanstack/react-query";
import { parseAsStringEnum, useQueryState } from "nuqs";
import { Button, ButtonGroup } from "react-bootstrap";
import { Where } from "../frame/top-slot.tsx";
import { apiGet } from "../kit/api.ts";
import { useMe } from "../people/me-context.tsx";
import { OutOfSync } from "./out-of-sync.tsx";
import { Locations } from "./locations.tsx";
import { RepositoryTree } from "./repository-tree.tsx";

const views = ["tree", "locations", "outOfSync"] as const;
const words = { tree: "Folders", locations: "Locations", outOfSync: "Out of sync" } as const;

/** The repository: its folders as a tree, every record's folder with its state, and what is not as we know it. */
export function RepositoryScreen() {
  const { me } = useMe();
  const [view, setView] = useQueryState("view", parseAsStringEnum([...views]).withDefault("tree"));
  const adrift = useQuery({
    queryKey: ["findings", "count"],
    enabled: me.may.plan,
    queryFn: ({ signal }) => apiGet<{ total: number }>("/repository/findings?limit=1", signal),
  });
  const choice = (
    <ButtonGroup size="sm" aria-label="View">
      {views
        .filter((v) => v !== "outOfSync" || me.may.plan)
        .map((v) => (
          <Button key={v} variant="plain" className={view === v ? "btn-on" : ""} aria-pressed={view === v} onClick={() => void setView(v)}>
            {words[v]}
            {v === "outOfSync" && adrift.data && adrift.data.total > 0 ? ` ${adrift.data.total}` : ""}
          </Button>
        ))}
    </ButtonGroup>
  );
  return (
    <div className="d-flex flex-column h-100">
      <Where title="Repository">
        <span className="wide-only">{choice}</span>
      </Where>
      {/* On a phone the top line has no room for it. */}
      <div className="narrow-only px-2 pt-2">{choice}</div>
      {view === "tree" ? <RepositoryTree /> : view === "locations" ? <Locations /> : <OutOfSync />}
    </div>
  );
}
