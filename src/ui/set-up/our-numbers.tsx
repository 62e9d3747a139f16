"use client";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { Button, Form } from "react-bootstrap";
import { apiGet, apiSend } from "../kit/api.ts";
import { useNotices } from "../kit/notices.tsx";

interface OurNumbers {
  readonly company: string;
  readonly name: string;
  readonly vatNumbers: readonly string[];
}

/** VAT numbers of our own companies, so that the program never takes one of them for a sender's. */
export function OurNumbers() {
  const notices = useNotices();
  const client = useQueryClient();
  const known = useQuery({
    queryKey: ["ourNumbers"],
    queryFn: ({ signal }) => apiGet<{ items: OurNumbers[] }>("/settings/our-numbers", signal),
  });
  const [typed, setTyped] = useState<Readonly<Record<string, string>>>({});
  const textOf = (c: OurNumbers): string => typed[c.company] ?? c.vatNumbers.join(", ");
  const save = useMutation({
    mutationFn: () =>
      apiSend("PUT", "/settings/our-numbers", {
        numbers: Object.fromEntries(
          (known.data?.items ?? []).map((c) => [
            c.company,
            textOf(c)
              .split(/[,;\n]+/)
              .map((v) => v.trim())
              .filter((v) => v !== ""),
          ]),
        ),
      }),
    onSuccess: () => {
      setTyped({});
      notices.done("Saved", { more: "It applies to documents read from now on." });
      void client.invalidateQueries({ queryKey: ["ourNumbers"] });
    },
    onError: notices.wrong,
  });
  if (!known.data) return null;
  const isChanged = known.data.items.some((c) => typed[c.company] !== undefined && typed[c.company] !== c.vatNumbers.join(", "));
  return (
    <section className="mb-5" aria-labelledby="our-numbers-title">
      <h2 id="our-numbers-title" className="mb-1">
        Our companies
      </h2>
      <p className="text-2">Names and bank accounts come from the records. VAT numbers listed here are never read as a sender’s.</p>
      <div style={{ maxWidth: 560 }}>
        {known.data.items.map((c) => (
          <div key={c.company} className="field-row">
            <label htmlFor={`vat-${c.company}`}>{c.name}</label>
            <Form.Control
              id={`vat-${c.company}`}
              size="sm"
              className="mono"
              placeholder="VAT numbers, separated by commas"
              value={textOf(c)}
              onChange={(e) => setTyped((now) => ({ ...now, [c.company]: e.target.value }))}
            />
          </div>
        ))}
        {isChanged ? (
          <Button size="sm" disabled={save.isPending} onClick={() => save.mutate()}>
            Save
          </Button>
        ) : null}
      </div>
    </section>
  );
}
