"use client";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { Button, Table } from "react-bootstrap";
import type { WeightsAnswer } from "#server/suggesting/weights.ts";
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
      notices.done(isTaken ? `Version ${version} is used from now on` : "The weights stay as they are", {
        more: isTaken ? "" : `Learnt from ${countText(papers, "paper")}, they would not be better on other senders’ papers.`,
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
        What speaks for a record
      </h2>
      <p className="text-2">
        {w.version === 1 ? "The starting weights are used." : `Version ${w.version} is used, learnt from what people decided.`}{" "}
        {countText(w.decided, "paper")} can be learnt from; new weights are taken only where they are better on senders that nothing was
        learnt from.
      </p>
      <div className="d-flex gap-2 mb-3">
        <Button
          size="sm"
          variant="plain"
          disabled={change.isPending || w.decided < w.learnsFrom}
          onClick={() => change.mutate({ act: "learn" })}
        >
          Learn anew
        </Button>
        {w.version !== 1 ? (
          <Button size="sm" variant="plain" disabled={change.isPending} onClick={() => change.mutate({ act: "use", version: 0 })}>
            Back to the starting weights
          </Button>
        ) : null}
        <Button size="sm" variant="quiet" aria-expanded={isOpen} onClick={() => setOpen(!isOpen)}>
          {isOpen ? "Hide them" : "Show them"}
        </Button>
        {w.decided < w.learnsFrom ? <span className="text-2 align-self-center">It takes {w.learnsFrom} papers.</span> : null}
      </div>
      {w.versions.length > 0 ? (
        <ul className="list-unstyled text-2">
          {w.versions.map((v) => (
            <li key={v.version}>
              Version {v.version}, {dayText(v.madeAt)}: {countText(v.papers, "paper")}, surprise {v.before.toFixed(3)} before,{" "}
              {v.after.toFixed(3)} after{" "}
              {v.isUsed ? (
                <span className="chip moss">used</span>
              ) : (
                <Button
                  size="sm"
                  variant="quiet"
                  className="p-0 text-decoration-underline"
                  onClick={() => change.mutate({ act: "use", version: v.version })}
                >
                  use it
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
