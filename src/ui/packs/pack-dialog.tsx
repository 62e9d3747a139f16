"use client";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { Button, Form, Modal, ProgressBar } from "react-bootstrap";
import { Download } from "react-bootstrap-icons";
import type { PackWish } from "#server/packs/choose-records.ts";
import type { PackAnswer } from "#server/packs/make-pack.ts";
import { Dialog } from "../kit/dialog.tsx";
import { apiGet, apiSend } from "../kit/api.ts";
import { useNotices } from "../kit/notices.tsx";
import { When } from "../kit/parts.tsx";
import { countText, sizeText } from "../kit/words.ts";

/** Progress is asked for so often, ms. */
const ASK_MS = 800;

/** Takes documents out together, and shows the packs that were made: with their progress, what was left out, and the way to their bytes. */
export function PackDialog({
  records,
  filter,
  total,
  canChain,
  onHide,
}: {
  /** Those that were chosen; none: all that fit the filter. */
  records: readonly { readonly company: string; readonly type: string; readonly key: string }[];
  filter?: PackWish["filter"];
  /** How many records the filter fits. */
  total: number;
  canChain: boolean;
  onHide: () => void;
}) {
  const notices = useNotices();
  const client = useQueryClient();
  const [format, setFormat] = useState<"pdf" | "folder">("folder");
  const [chain, setChain] = useState(false);
  const [isSample, setSample] = useState(false);
  const [size, setSize] = useState(25);
  const [seed, setSeed] = useState(() => Math.floor(Math.random() * 1_000_000));
  const isFilter = records.length === 0;
  const packs = useQuery({
    queryKey: ["packs"],
    queryFn: ({ signal }) => apiGet<{ items: readonly PackAnswer[] }>("/packs", signal),
    refetchInterval: (q) => (q.state.data?.items.some((p) => p.state === "waiting" || p.state === "running") ? ASK_MS : false),
  });
  const make = useMutation({
    mutationFn: () =>
      apiSend<{ id: string }>("POST", "/packs", {
        format,
        scope: chain ? "chain" : "own",
        ...(isFilter ? { filter } : { records: records.map(({ company, type, key }) => ({ company, type, key })) }),
        ...(isFilter && isSample ? { sample: { size, seed } } : {}),
      }),
    onSuccess: () => void client.invalidateQueries({ queryKey: ["packs"] }),
    onError: notices.wrong,
  });
  const count = isFilter ? (isSample ? Math.min(size, total) : total) : records.length;
  return (
    <Dialog show onHide={onHide} size="lg" scrollable>
      <Modal.Header closeButton>
        <Modal.Title as="h2">{records.length === 1 ? `Pack documents of ${records[0]?.key ?? ""}` : "Pack documents"}</Modal.Title>
      </Modal.Header>
      <Modal.Body>
        <Form
          id="pack"
          onSubmit={(e) => {
            e.preventDefault();
            make.mutate();
          }}
        >
          <Form.Check
            type="radio"
            name="format"
            id="pack-folder"
            label={
              <>
                <strong>Folder with evidence</strong>
                <span className="text-2 d-block">
                  Every original file with its hash, plus records, checklists and timelines. Check it with bin/verify-pack
                </span>
              </>
            }
            checked={format === "folder"}
            onChange={() => setFormat("folder")}
          />
          <Form.Check
            type="radio"
            name="format"
            id="pack-pdf"
            className="mt-2"
            label={
              <>
                <strong>One PDF</strong>
                <span className="text-2 d-block">Index with links, bookmarks, and a footer on every page naming its document</span>
              </>
            }
            checked={format === "pdf"}
            onChange={() => setFormat("pdf")}
          />
          {canChain ? (
            <Form.Check
              className="mt-3"
              id="pack-chain"
              label="with the documents along the chain"
              checked={chain}
              onChange={(e) => setChain(e.target.checked)}
            />
          ) : null}
          {isFilter ? (
            <div className="mt-3 d-flex flex-wrap gap-2 align-items-center">
              <Form.Check id="pack-sample" label="only a sample of" checked={isSample} onChange={(e) => setSample(e.target.checked)} />
              <Form.Control
                type="number"
                size="sm"
                min={1}
                max={1000}
                style={{ width: 90 }}
                aria-label="Size of the sample"
                disabled={!isSample}
                value={size}
                onChange={(e) => setSize(Math.max(1, Math.min(1000, Number(e.target.value) || 1)))}
              />
              <span className="text-2">with random seed</span>
              <Form.Control
                type="number"
                size="sm"
                min={0}
                style={{ width: 120 }}
                aria-label="Random seed"
                disabled={!isSample}
                value={seed}
                onChange={(e) => setSeed(Math.max(0, Math.floor(Number(e.target.value) || 0)))}
              />
              <span className="text-2 small">The same seed selects the same records again.</span>
            </div>
          ) : null}
        </Form>
        {packs.data && packs.data.items.length > 0 ? (
          <section className="mt-4" aria-label="Your packs">
            <h3 className="pb-1 mb-0" style={{ fontSize: "1rem", borderBottom: "1px solid var(--ink-1)" }}>
              Your packs
            </h3>
            {packs.data.items.map((p) => (
              <div key={p.id} className="type-row" style={{ gridTemplateColumns: "minmax(0, 1fr) auto", cursor: "default" }}>
                <span style={{ minWidth: 0 }}>
                  <strong>{p.label}</strong> <span className="text-2">{p.format === "pdf" ? "PDF" : "folder"}</span>
                  <span className="text-2 small d-block">
                    {p.state === "done"
                      ? [
                          countText(p.papers, "document"),
                          `${countText(p.records, "record")}`,
                          sizeText(p.sizeBytes ?? 0),
                          p.leftOut.length > 0
                            ? `${p.leftOut.length} left out: ${p.leftOut
                                .slice(0, 3)
                                .map((l) => `${l.code} ${l.why}`)
                                .join("; ")}`
                            : "",
                        ]
                          .filter(Boolean)
                          .join(" · ")
                      : p.state === "failed"
                        ? p.why
                        : p.state === "gone"
                          ? "expired"
                          : `${countText(p.done, "document")} so far`}
                    {" · "}
                    <When at={p.madeAt} />
                  </span>
                  {p.state === "waiting" || p.state === "running" ? (
                    <ProgressBar animated now={100} className="my-1" aria-label={`${p.label} is being prepared`} />
                  ) : null}
                </span>
                {p.state === "done" ? (
                  <a className="btn btn-plain btn-sm" href={`/api/v1/packs/${p.id}/content`}>
                    <Download /> Download
                  </a>
                ) : null}
              </div>
            ))}
          </section>
        ) : null}
      </Modal.Body>
      <Modal.Footer>
        <Button variant="plain" onClick={onHide}>
          Close
        </Button>
        <Button type="submit" form="pack" disabled={make.isPending || count === 0}>
          Create pack of {countText(count, "record")}
        </Button>
      </Modal.Footer>
    </Dialog>
  );
}
