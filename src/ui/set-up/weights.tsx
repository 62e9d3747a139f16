"use client";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { Button, Table } from "react-bootstrap";
import type { WeightsAnswer } from "#server/matching/weights.ts";
import { apiGet, apiSend } from "../kit/api.ts";
import { useNotices } from "../kit/notices.tsx";
import { countText, dayText } from "../kit/words.ts";

/** How much each kind of evidence weighs when a record is proposed, and from what that was learnt. */
export function Weights() {
  const notices = useNotices();
  const client = useQueryClient();
  const [isOpen, setOpen] = useState(false);
  const known = useQuery({ queryKey: ["weights"], queryFn: ({ signal }) => apiGet<WeightsAnswer>("/settings/weights", signal) });
  const change = useMutation({
    mutationFn: (wish: { act: "learn" } | { act: "use"; version: number }) =>
      apiSend<{ version: number; isTaken: boolean; papers: number }>("POST", "/settings/weights", wish),
    onSuccess: ({ version, isTaken, papers }) => {
      notices.done(isTaken ? `Version ${version} is now in use` : "The weights are unchanged", {
        more: isTaken ? "" : `Learnt from ${countText(papers, "document")}, they would be no better on other senders’ documents.`,
      });
      void client.invalidateQueries({ queryKey: ["weights"] });
    },
    onError: notices.wrong,
  });
  const w = known.data;
  if (!w) return null;
  const most = Math.max(...w.weights.map((x) => Math.abs(x.now)), 1);
  return (
    <section className="mb-5" aria-labelledby="weights-title">
      <h2 id="weights-title" className="mb-1">
        Evidence weights
      </h2>
      <p className="text-2">
        {w.version === 1 ? "The initial weights are in use." : `Version ${w.version} is in use, learnt from filing decisions.`}{" "}
        {countText(w.decided, "document")} available for learning. New weights are used only if they are better on other senders.
      </p>
      <div className="d-flex gap-2 mb-3">
        <Button
          size="sm"
          variant="plain"
          disabled={change.isPending || w.decided < w.learnsFrom}
          onClick={() => change.mutate({ act: "learn" })}
        >
          Learn again
        </Button>
        {w.version !== 1 ? (
          <Button size="sm" variant="plain" disabled={change.isPending} onClick={() => change.mutate({ act: "use", version: 0 })}>
            Use initial weights
          </Button>
        ) : null}
        <Button size="sm" variant="quiet" aria-expanded={isOpen} onClick={() => setOpen(!isOpen)}>
          {isOpen ? "Hide weights" : "Show weights"}
        </Button>
        {w.decided < w.learnsFrom ? <span className="text-2 align-self-center">Learning needs {w.learnsFrom} documents.</span> : null}
      </div>
      {w.versions.length > 0 ? (
        <ul className="list-unstyled text-2">
          {w.versions.map((v) => (
            <li key={v.version}>
              Version {v.version}, {dayText(v.madeAt)}: {countText(v.papers, "document")}, surprise {v.before.toFixed(3)} before,{" "}
              {v.after.toFixed(3)} after{" "}
              {v.isUsed ? (
                <span className="chip moss">in use</span>
              ) : (
                <Button
                  size="sm"
                  variant="quiet"
                  className="p-0 text-decoration-underline"
                  onClick={() => change.mutate({ act: "use", version: v.version })}
                >
                  use
                </Button>
              )}
            </li>
          ))}
        </ul>
      ) : null}
      {isOpen ? (
        <Table size="sm" className="align-middle" style={{ maxWidth: 720 }}>
          <thead>
            <tr>
              <th>Evidence</th>
              <th className="text-end">Start</th>
              <th className="text-end">Now</th>
              <th>
                <span className="visually-hidden">Weight</span>
              </th>
            </tr>
          </thead>
          <tbody>
            {[...w.weights]
              .sort((a, b) => b.now - a.now)
              .map((x) => (
                <tr key={x.kind}>
                  <td>{x.words || x.kind}</td>
                  <td className="text-end num">{x.starting.toFixed(1)}</td>
                  <td className="text-end num">{x.now.toFixed(1)}</td>
                  <td style={{ width: 220 }}>
                    <span
                      className={`weight-bar ${x.now < 0 ? "is-against" : ""}`}
                      style={{ width: `${(Math.abs(x.now) / most) * 100}%` }}
                    />
                  </td>
                </tr>
              ))}
          </tbody>
        </Table>
      ) : null}
    </section>
  );
}
