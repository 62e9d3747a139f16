"use client";
import { useQuery } from "@tanstack/react-query";
import { parseAsInteger, parseAsString, useQueryState } from "nuqs";
import { useDeferredValue } from "react";
import { Button, Form, Table } from "react-bootstrap";
import { Folder2 } from "react-bootstrap-icons";
import type { LocationAnswer } from "#server/repository/browse.ts";
import { apiGet, queryOf, wordsOf } from "../kit/api.ts";
import { Link } from "../kit/link.tsx";
import { useNotices } from "../kit/notices.tsx";
import { Empty, Skeletons, Trouble, When } from "../kit/parts.tsx";
import { countText, sizeText } from "../kit/words.ts";
import { saveCsv } from "../kit/save-csv.ts";
import { useMe } from "../people/me-context.tsx";
import { recordHref } from "../records/record-href.ts";
import { placeStateTone, placeStateWords } from "./state-words.ts";

const PAGE = 100;
const columns = [
  { key: "path", label: "Folder", num: false, isWide: false },
  { key: "documents", label: "Documents", num: true, isWide: true },
  { key: "bytes", label: "Size", num: true, isWide: true },
  { key: "checkedAt", label: "Last verified", num: false, isWide: true },
] as const;

/** All folders of all records in one table: state, size, last proof, filters, CSV. The address holds what is shown. */
export function Locations() {
  const { me, company } = useMe();
  const notices = useNotices();
  const [q, setQ] = useQueryState("q", parseAsString.withDefault(""));
  const [type, setType] = useQueryState("type", parseAsString.withDefault(""));
  const [state, setState] = useQueryState("state", parseAsString.withDefault(""));
  const [sort, setSort] = useQueryState("sort", parseAsString.withDefault("path"));
  const [order, setOrder] = useQueryState("order", parseAsString.withDefault("up"));
  const [page, setPage] = useQueryState("page", parseAsInteger.withDefault(0));
  const asked = useDeferredValue(q);
  const wish = { q: asked, type, state, sort, order, company };
  const found = useQuery({
    queryKey: ["locations", wish, page],
    queryFn: ({ signal }) =>
      apiGet<{ items: LocationAnswer[]; total: number; next: string | null }>(
        `/repository/locations${queryOf({ ...wish, limit: PAGE, cursor: page * PAGE })}`,
        signal,
      ),
    placeholderData: (p) => p,
  });
  const narrow = (set: (v: string | null) => unknown, value: string): void => {
    void setPage(null);
    void set(value === "" ? null : value);
  };
  return (
    <div className="d-flex flex-column flex-grow-1" style={{ minHeight: 0 }}>
      <div className="bar">
        <Form.Control
          size="sm"
          style={{ maxWidth: 260 }}
          placeholder="Folder, number or name"
          aria-label="Folder, number or name"
          value={q}
          onChange={(e) => narrow(setQ, e.target.value)}
        />
        <Form.Select
          size="sm"
          style={{ maxWidth: 200 }}
          aria-label="Record type"
          value={type}
          onChange={(e) => narrow(setType, e.target.value)}
        >
          <option value="">all record types</option>
          {me.recordTypes.map((t) => (
            <option key={t.key} value={t.key}>
              {t.plural}
            </option>
          ))}
        </Form.Select>
        <Form.Select
          size="sm"
          style={{ maxWidth: 150 }}
          aria-label="State"
          value={state}
          onChange={(e) => narrow(setState, e.target.value)}
        >
          <option value="">any state</option>
          {Object.entries(placeStateWords).map(([key, word]) => (
            <option key={key} value={key}>
              {word}
            </option>
          ))}
        </Form.Select>
        <span className="text-2 small ms-auto">{found.data ? countText(found.data.total, "folder") : ""}</span>
        <Button
          size="sm"
          variant="plain"
          onClick={() => void saveCsv(`/api/v1/repository/locations${queryOf(wish)}`, "locations.csv").catch(notices.wrong)}
        >
          CSV
        </Button>
      </div>
      <div className="scroll flex-grow-1" tabIndex={0} role="region" aria-label="Locations">
        {found.isPending ? <Skeletons rows={8} height={40} /> : null}
        {found.isError ? <Trouble {...wordsOf(found.error)} /> : null}
        {found.data?.items.length === 0 ? (
          <Empty icon={<Folder2 size={28} />} title="No folders match">
            A folder appears when the first document of its record is filed.
          </Empty>
        ) : null}
        {found.data && found.data.items.length > 0 ? (
          <Table size="sm" className="mb-0">
            <thead>
              <tr>
                <th>Record</th>
                {columns.map((c) => (
                  <th
                    key={c.key}
                    className={`${c.num ? "num" : ""} ${c.isWide ? "wide-only" : ""}`}
                    aria-sort={sort === c.key ? (order === "up" ? "ascending" : "descending") : "none"}
                  >
                    <button
                      type="button"
                      className="sort"
                      onClick={() => {
                        void setOrder(sort === c.key && order === "up" ? "down" : null);
                        void setSort(c.key === "path" ? null : c.key);
                      }}
                    >
                      {c.label}
                    </button>
                  </th>
                ))}
                <th>State</th>
              </tr>
            </thead>
            <tbody>
              {found.data.items.map((l) => (
                <tr key={l.id}>
                  <td className="text-nowrap">
                    <Link href={recordHref(l.record)} className="mono">
                      {l.record.key}
                    </Link>
                  </td>
                  <td className="text-break" title={l.location}>
                    {l.path.split("/").join(" › ")}
                  </td>
                  <td className="num wide-only">{l.documents}</td>
                  <td className="num wide-only">{l.bytes > 0 ? sizeText(l.bytes) : ""}</td>
                  <td className="text-nowrap wide-only">{l.checkedAt ? <When at={l.checkedAt} /> : null}</td>
                  <td>
                    <span className={`chip ${placeStateTone(l.state)}`}>{placeStateWords[l.state] ?? l.state}</span>
                  </td>
                </tr>
              ))}
            </tbody>
          </Table>
        ) : null}
        <div className="d-flex gap-2 p-3">
          {page > 0 ? (
            <Button size="sm" variant="plain" onClick={() => void setPage(page - 1)}>
              Before
            </Button>
          ) : null}
          {found.data?.next ? (
            <Button size="sm" variant="plain" onClick={() => void setPage(page + 1)}>
              More
            </Button>
          ) : null}
        </div>
      </div>
    </div>
  );
}
