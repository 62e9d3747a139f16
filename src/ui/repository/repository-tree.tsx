"use client";
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect, useMemo, useRef, useState } from "react";
import { Button, Form } from "react-bootstrap";
import { Bookshelf, ChevronDown, ChevronRight, FileEarmark, Folder2, FolderFill, Hdd, Plus } from "react-bootstrap-icons";
import { type NodeRendererProps, Tree, type TreeApi } from "react-arborist";
import type { ShelfAnswer } from "#server/repository/shelves.ts";
import type { TreeNode } from "#server/repository/browse.ts";
import { apiGet, queryOf, wordsOf } from "../kit/api.ts";
import { Columns } from "../kit/columns.tsx";
import { Empty, Skeletons, Trouble } from "../kit/parts.tsx";
import { countText } from "../kit/words.ts";
import { useMe } from "../people/me-context.tsx";
import { AboutBranch, type Branch } from "./about-branch.tsx";
import { ShelfDialog, TOP } from "./shelf-dialog.tsx";
import { placeStateTone, placeStateWords } from "./state-words.ts";

const ROW = 30;

/** The tree of every connection. A folder's lines are fetched when it is opened; however many there are, only those in sight are drawn. */
export function RepositoryTree() {
  const { me } = useMe();
  const client = useQueryClient();
  const [levels, setLevels] = useState<Readonly<Record<string, readonly Branch[]>>>({});
  const [chosen, setChosen] = useState<Branch | null>(null);
  /** Lines that stand open when the tree is drawn again, after something was found. */
  const [opened, setOpened] = useState<Readonly<Record<string, boolean>>>({});
  const [q, setQ] = useState("");
  const [error, setError] = useState<unknown>(null);
  const [size, setSize] = useState({ width: 480, height: 500 });
  const [step, setStep] = useState(0);
  const [shelfFor, setShelfFor] = useState<{ readonly connection: string; readonly path: string } | null>(null);
  const box = useRef<HTMLDivElement>(null);
  const tree = useRef<TreeApi<Branch> | null>(null);
  const fetchLevel = async (connection: string | undefined, path: string): Promise<readonly Branch[]> => {
    const answer = await client.fetchQuery({
      queryKey: ["tree", connection, path],
      queryFn: ({ signal }) =>
        apiGet<{ items: TreeNode[]; truncated: boolean }>(`/repository/tree${queryOf({ connection, path })}`, signal),
      staleTime: 3000,
    });
    const items: Branch[] = answer.items.map((n) => (n.kind === "document" ? n : { ...n, children: [] }));
    if (answer.truncated) items.push({ ...moreOf(connection ?? "", path), truncated: true });
    return items;
  };
  const top = useQuery({
    queryKey: ["treeTop"],
    queryFn: async () => {
      const connections = await fetchLevel(undefined, "");
      const only = connections[0];
      const first = connections.length === 1 && only ? { [only.id]: await fetchLevel(only.connection, "") } : {};
      return { connections, first };
    },
  });
  const roots = useMemo(() => (top.data ? withLevels(top.data.connections, { ...top.data.first, ...levels }) : null), [top.data, levels]);
  const reload = (): void => {
    setLevels({});
    client.removeQueries({ queryKey: ["tree"] });
    void client.invalidateQueries({ queryKey: ["treeTop"] });
  };
  const isReady = roots !== null;
  useEffect(() => {
    const at = box.current;
    if (!at || !isReady) return;
    const watch = new ResizeObserver(([entry]) => {
      if (entry) setSize({ width: entry.contentRect.width, height: entry.contentRect.height });
    });
    watch.observe(at);
    return () => watch.disconnect();
  }, [isReady]);
  const open = async (branch: Branch): Promise<void> => {
    if (branch.children === undefined || branch.children.length > 0) return;
    try {
      const children = await fetchLevel(branch.connection, branch.path);
      setLevels((now) => ({ ...now, [branch.id]: children }));
    } catch (e) {
      setError(e);
    }
  };
  /** Opens the tree down to a folder that was found, so that its documents and what stands beside it are seen. */
  const showInTree = async (branch: Branch): Promise<void> => {
    const fetched: Record<string, readonly Branch[]> = {};
    const steps = branch.path.split("/");
    let at = roots?.find((r) => r.connection === branch.connection);
    try {
      for (let n = 1; at; n++) {
        const children: readonly Branch[] = await fetchLevel(at.connection, at.path);
        fetched[at.id] = children;
        const next = children.find((c) => c.kind !== "document" && c.path === steps.slice(0, n).join("/"));
        if (!next) break;
        at = next;
      }
    } catch (e) {
      return setError(e);
    }
    setLevels((now) => ({ ...now, ...fetched }));
    setOpened(Object.fromEntries(Object.keys(fetched).map((id) => [id, true])));
    setChosen(at ?? branch);
    setQ("");
  };
  const found = useQuery({
    queryKey: ["treeFind", q],
    enabled: q.trim().length > 1,
    queryFn: ({ signal }) =>
      apiGet<{
        items: {
          path: string;
          connection: string;
          location: string;
          record: TreeNode["record"];
          documents: number;
          state: string;
          id: number;
        }[];
      }>(`/repository/locations${queryOf({ q: q.trim(), limit: 100 })}`, signal),
    placeholderData: (p) => p,
  });
  const shelves = useQuery({
    queryKey: ["shelves"],
    enabled: q.trim().length > 1,
    queryFn: ({ signal }) => apiGet<{ items: ShelfAnswer[] }>("/repository/shelves", signal),
  });
  const shelvesFound = (shelves.data?.items ?? []).filter((s) => s.path.toLowerCase().includes(q.trim().toLowerCase()));
  if (error || top.isError)
    return (
      <Trouble
        {...wordsOf(error ?? top.error)}
        again={() => {
          setError(null);
          reload();
        }}
      />
    );
  if (roots === null) return <Skeletons rows={8} height={ROW} />;
  return (
    <>
      <Columns name="repository" grows={0} step={step} sides={{ 1: { start: 400, min: 300, max: 620 } }}>
        <section className="d-flex flex-column h-100" aria-label="Folders">
          <div className="bar">
            <Form.Control
              size="sm"
              placeholder="Find a folder"
              aria-label="Find a folder"
              value={q}
              onChange={(e) => setQ(e.target.value)}
              style={{ maxWidth: 280 }}
            />
            {me.may.plan ? (
              <Button
                size="sm"
                variant="plain"
                className="ms-auto"
                onClick={() =>
                  setShelfFor({
                    connection: chosen?.connection ?? roots[0]?.connection ?? "",
                    path: chosen?.kind === "shelf" ? chosen.path : TOP,
                  })
                }
              >
                <Plus /> Shelf
              </Button>
            ) : null}
          </div>
          {q.trim().length > 1 ? (
            <div className="scroll" tabIndex={0} role="region" aria-label="Folders found">
              {shelvesFound.map((s) => (
                <button
                  key={s.id}
                  type="button"
                  className="tree-row is-found"
                  onClick={() => {
                    setChosen({
                      id: String(s.id),
                      name: s.path.split("/").at(-1) ?? "",
                      kind: "shelf",
                      connection: s.connection,
                      path: s.path,
                      folders: 1,
                      documents: 0,
                      state: null,
                      record: null,
                      code: null,
                      folderId: s.id,
                      location: s.location,
                    });
                    setStep(1);
                  }}
                >
                  <Bookshelf aria-hidden="true" className="of-record" />{" "}
                  <span className="text-truncate">{s.path.split("/").join(" › ")}</span>
                </button>
              ))}
              {found.data?.items.length === 0 && shelvesFound.length === 0 ? <p className="p-3 text-2">No folder has that name.</p> : null}
              {found.data?.items.map((f) => (
                <button
                  key={f.id}
                  type="button"
                  className="tree-row is-found"
                  onClick={() => {
                    setChosen({
                      id: String(f.id),
                      name: f.path.split("/").at(-1) ?? "",
                      kind: "record",
                      connection: f.connection,
                      path: f.path,
                      folders: 1,
                      documents: f.documents,
                      state: f.state === "empty" ? null : (f.state as Branch["state"]),
                      record: f.record,
                      code: null,
                      folderId: f.id,
                      location: f.location,
                    });
                    setStep(1);
                  }}
                >
                  <Folder2 aria-hidden="true" /> <span className="text-truncate">{f.path.split("/").join(" › ")}</span>
                  <span className="text-2 ms-auto">{f.documents > 0 ? countText(f.documents, "document") : ""}</span>
                </button>
              ))}
            </div>
          ) : (
            <div ref={box} className="flex-grow-1" style={{ minHeight: 0 }}>
              <Tree<Branch>
                ref={tree}
                data={roots}
                idAccessor="id"
                childrenAccessor={(b) => (b.children as Branch[] | undefined) ?? null}
                openByDefault={false}
                initialOpenState={{ ...opened, ...(roots.length === 1 && roots[0] ? { [roots[0].id]: true } : {}) }}
                selection={chosen?.id ?? ""}
                disableDrag
                disableDrop
                disableEdit
                width={size.width}
                height={size.height}
                rowHeight={ROW}
                indent={18}
                aria-label="Folders of the repository"
                onToggle={(id) => {
                  const node = tree.current?.get(id);
                  if (node?.isOpen) void open(node.data);
                }}
                onSelect={(nodes) => {
                  const node = nodes[0];
                  if (node && node.data.truncated !== true) setChosen(node.data);
                }}
              >
                {Line}
              </Tree>
            </div>
          )}
        </section>
        <section className="d-flex flex-column h-100" aria-label="Folder details" style={{ background: "var(--paper-0)" }}>
          <div className="bar step-back">
            <Button variant="quiet" onClick={() => setStep(0)}>
              Folders
            </Button>
          </div>
          {chosen ? (
            <>
              <AboutBranch
                branch={chosen}
                onShelf={() => setShelfFor({ connection: chosen.connection, path: chosen.path })}
                onChanged={reload}
              />
              {q.trim().length > 1 ? (
                <p className="p-3">
                  <Button size="sm" variant="plain" onClick={() => void showInTree(chosen)}>
                    Show in tree
                  </Button>
                </p>
              ) : null}
            </>
          ) : (
            <Empty icon={<Folder2 size={28} />} title="Select a folder or document">
              Its location, state and record are shown here.
            </Empty>
          )}
        </section>
      </Columns>
      <ShelfDialog
        at={shelfFor}
        connections={roots.map((r) => ({ key: r.connection, label: r.name }))}
        onHide={() => setShelfFor(null)}
        onMade={() => {
          setShelfFor(null);
          reload();
        }}
      />
    </>
  );
}

function moreOf(connection: string, path: string): TreeNode {
  return {
    id: `${connection}/${path}/…`,
    name: "More than a thousand: search by name to find others",
    kind: "document",
    connection,
    path,
    folders: 0,
    documents: 0,
    state: null,
    record: null,
    code: null,
    folderId: null,
    location: "",
  };
}

/** The lines with what has been fetched below them so far. */
function withLevels(branches: readonly Branch[], levels: Readonly<Record<string, readonly Branch[]>>): readonly Branch[] {
  return branches.map((b) => {
    const below = levels[b.id];
    return below ? { ...b, children: withLevels(below, levels) } : b;
  });
}

/** One line: drawn as it comes into sight. */
function Line({ node, style, dragHandle }: NodeRendererProps<Branch>) {
  const b = node.data;
  const IconOf =
    b.kind === "connection"
      ? Hdd
      : b.kind === "shelf"
        ? Bookshelf
        : b.kind === "document"
          ? FileEarmark
          : b.kind === "record"
            ? FolderFill
            : Folder2;
  return (
    <div
      ref={dragHandle}
      style={style}
      className={`tree-row ${node.isSelected ? "is-chosen" : ""}`}
      onClick={() => (node.isInternal ? node.toggle() : undefined)}
    >
      <span className="tree-open" aria-hidden="true">
        {node.isInternal ? node.isOpen ? <ChevronDown size={12} /> : <ChevronRight size={12} /> : null}
      </span>
      {b.truncated ? null : (
        <IconOf size={15} aria-hidden="true" className={b.kind === "record" || b.kind === "shelf" ? "of-record" : ""} />
      )}
      <span className={`text-truncate ${b.truncated ? "text-2" : ""}`}>{b.name}</span>
      <span className="text-2 ms-auto ps-2 text-nowrap">
        {b.state !== null && b.state !== "stored" ? (
          <span className={`chip ${placeStateTone(b.state)} me-1`}>{placeStateWords[b.state]}</span>
        ) : null}
        {b.kind === "document"
          ? ""
          : b.documents > 0
            ? countText(b.documents, "document")
            : b.folders > 1
              ? b.folders.toLocaleString("en-GB")
              : ""}
      </span>
    </div>
  );
}
