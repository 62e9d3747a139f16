"use client";
import { useMutation } from "@tanstack/react-query";
import { useState } from "react";
import { Button, Form } from "react-bootstrap";
import { Copy, Plus } from "react-bootstrap-icons";
import type { TreeNode } from "#server/repository/browse.ts";
import { apiSend } from "../kit/api.ts";
import { Link } from "../kit/link.tsx";
import { useNotices } from "../kit/notices.tsx";
import { useMe } from "../people/me-context.tsx";
import { recordHref } from "../records/record-href.ts";
import { OpenFolder } from "./open-folder.tsx";
import { placeStateTone, placeStateWords } from "./state-words.ts";

/** A line of the tree with what is below it, once that was asked for. */
export interface Branch extends TreeNode {
  readonly children?: readonly Branch[];
  /** More lines than are shown at once: they are found by typing. */
  readonly truncated?: boolean;
}

/** What is known of the chosen line: its record, its exact place, and the ways to it. */
export function AboutBranch({ branch, onShelf, onChanged }: { branch: Branch; onShelf: () => void; onChanged: () => void }) {
  const { me, recordType } = useMe();
  const notices = useNotices();
  const [path, setPath] = useState<string | null>(null);
  const move = useMutation({
    mutationFn: () => apiSend("PATCH", `/repository/shelves/${branch.folderId}`, { path }),
    onSuccess: () => {
      setPath(null);
      notices.done("Shelf moved");
      onChanged();
    },
    onError: notices.wrong,
  });
  return (
    <div className="know" tabIndex={0} role="region" aria-label="Details">
      <section>
        <div className="head">
          <h2 className="text-break">{branch.name}</h2>
          {branch.state ? <span className={`chip ${placeStateTone(branch.state)}`}>{placeStateWords[branch.state]}</span> : null}
        </div>
        {branch.record ? (
          <p className="mb-2">
            {recordType(branch.record.type)?.label}{" "}
            <Link href={recordHref(branch.record)}>
              {branch.record.key} {branch.record.title}
            </Link>
          </p>
        ) : null}
        {branch.code ? (
          <p className="mb-2">
            Document{" "}
            <Link href={`/documents/${branch.code}`} className="mono">
              {branch.code}
            </Link>
          </p>
        ) : null}
        {branch.kind === "shelf" ? (
          <p className="text-2 mb-2">Shelf: documents without a record, or documents stored elsewhere too.</p>
        ) : null}
        {branch.location ? <p className="mono small text-break mb-2">{branch.location}</p> : null}
        <div className="d-flex gap-2 flex-wrap">
          {branch.location ? (
            <Button
              size="sm"
              variant="plain"
              onClick={() =>
                void navigator.clipboard
                  .writeText(branch.location)
                  .then(() => notices.done("Location copied", { more: branch.location }), notices.wrong)
              }
            >
              <Copy size={12} /> Copy location
            </Button>
          ) : null}
          {branch.location ? (
            <OpenFolder location={branch.code ? branch.location.slice(0, branch.location.lastIndexOf("/")) : branch.location} />
          ) : null}
          {branch.kind === "shelf" && me.may.plan ? (
            <>
              <Button size="sm" variant="plain" onClick={onShelf}>
                <Plus /> Shelf on it
              </Button>
              <Button size="sm" variant="plain" onClick={() => setPath(branch.path)}>
                Rename or move
              </Button>
            </>
          ) : null}
        </div>
        {path !== null ? (
          <Form
            className="mt-3"
            onSubmit={(e) => {
              e.preventDefault();
              move.mutate();
            }}
          >
            <Form.Label htmlFor="shelf-path">New location of the shelf</Form.Label>
            <div className="d-flex gap-2">
              <Form.Control id="shelf-path" value={path} onChange={(e) => setPath(e.target.value)} />
              <Button type="submit" disabled={move.isPending || path.trim() === ""}>
                Move
              </Button>
            </div>
          </Form>
        ) : null}
      </section>
    </div>
  );
}
