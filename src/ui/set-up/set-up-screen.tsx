"use client";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { Button, Form, Table } from "react-bootstrap";
import { contentKinds, type IntakeLimits, offeredKinds } from "#core/arrivals/limits.ts";
import { Connections } from "../repository/connections-list.tsx";
import { Where } from "../frame/top-slot.tsx";
import { apiGet, apiSend, wordsOf } from "../kit/api.ts";
import { Icon } from "../kit/icon.tsx";
import { useNotices } from "../kit/notices.tsx";
import { Skeletons, Trouble, When } from "../kit/parts.tsx";
import { useMe } from "../people/me-context.tsx";
import { JunkSenders } from "./junk-senders.tsx";
import { LearntSenders } from "./learnt-senders.tsx";
import { OurNumbers } from "./our-numbers.tsx";
import { LabelFormats } from "./label-formats.tsx";
import { QueueIntake } from "./queue-intake.tsx";
import { AutomaticFilingSettings } from "../automatic-filing/automatic-filing-settings.tsx";
import { ReachSettingsPart } from "./reach-settings.tsx";
import { ToleranceSettings } from "./tolerance.tsx";
import { Weights } from "./weights.tsx";
import { MailIn } from "./mail-in.tsx";
import { WatchedFolders } from "./watched-folders.tsx";

interface Person {
  readonly id: string;
  readonly name: string;
  readonly email: string;
  readonly roles: readonly string[];
  readonly queues: readonly string[];
  readonly keys: number;
  readonly lastSeenAt: string | null;
}

const MEGABYTE = 1024 * 1024;

/** Set-up: what is taken in, people, and the types with their fields. */
export function SetUpScreen() {
  return (
    <div className="scroll">
      <Where title="Set-up" />
      <div className="page">
        <Connections />
        <Limits />
        <QueueIntake />
        <MailIn />
        <WatchedFolders />
        <LabelFormats />
        <JunkSenders />
        <LearntSenders />
        <Weights />
        <AutomaticFilingSettings />
        <OurNumbers />
        <ToleranceSettings />
        <ReachSettingsPart />
        <People />
        <Types />
      </div>
    </div>
  );
}

function Limits() {
  const notices = useNotices();
  const client = useQueryClient();
  const limits = useQuery({ queryKey: ["limits"], queryFn: ({ signal }) => apiGet<IntakeLimits>("/settings/limits", signal) });
  const [draft, setDraft] = useState<IntakeLimits | null>(null);
  const save = useMutation({
    mutationFn: (next: IntakeLimits) => apiSend<IntakeLimits>("PUT", "/settings/limits", next),
    onSuccess: () => {
      setDraft(null);
      notices.done("Limits saved", { more: "They apply to the next file." });
      void client.invalidateQueries({ queryKey: ["limits"] });
    },
    onError: notices.wrong,
  });
  if (limits.isPending) return <Skeletons rows={2} />;
  if (limits.isError) return <Trouble {...wordsOf(limits.error)} />;
  const now = draft ?? limits.data;
  const set = (change: Partial<IntakeLimits>): void => setDraft({ ...now, ...change });
  return (
    <section className="mb-5" aria-labelledby="limits-title">
      <h2 id="limits-title" className="mb-2">
        File limits
      </h2>
      <Form
        onSubmit={(e) => {
          e.preventDefault();
          save.mutate(now);
        }}
      >
        <div className="d-flex gap-3 flex-wrap mb-3">
          <LimitField
            id="limit-size"
            label="Largest file, MB"
            max={4096}
            value={Math.round(now.bytesMax / MEGABYTE)}
            onChange={(n) => set({ bytesMax: Math.max(1, n) * MEGABYTE })}
          />
          <LimitField
            id="limit-pages"
            label="Most pages per document"
            max={20000}
            value={now.pagesMax}
            onChange={(pagesMax) => set({ pagesMax })}
          />
          <LimitField
            id="limit-files"
            label="Most files per drop"
            max={10000}
            value={now.filesMax}
            onChange={(filesMax) => set({ filesMax })}
          />
        </div>
        <fieldset className="d-flex flex-wrap gap-3 mb-3">
          <legend className="text-2 mb-1" style={{ fontSize: "0.75rem" }}>
            File types, by content
          </legend>
          {offeredKinds.map((k) => (
            <Form.Check
              key={k}
              id={`kind-${k}`}
              label={contentKinds[k].label}
              checked={now.kinds.includes(k)}
              onChange={(e) => set({ kinds: e.target.checked ? [...now.kinds, k] : now.kinds.filter((x) => x !== k) })}
            />
          ))}
        </fieldset>
        <Button type="submit" disabled={draft === null || save.isPending}>
          Save limits
        </Button>
        {draft ? (
          <Button variant="quiet" className="ms-2" onClick={() => setDraft(null)}>
            Reset
          </Button>
        ) : null}
      </Form>
    </section>
  );
}

function LimitField({
  id,
  label,
  max,
  value,
  onChange,
}: {
  id: string;
  label: string;
  max: number;
  value: number;
  onChange: (value: number) => void;
}) {
  return (
    <div>
      <Form.Label htmlFor={id}>{label}</Form.Label>
      <Form.Control
        id={id}
        type="number"
        min={1}
        max={max}
        style={{ width: 130 }}
        value={value}
        onChange={(e) => onChange(Number(e.target.value))}
      />
    </div>
  );
}

function People() {
  const people = useQuery({ queryKey: ["people"], queryFn: ({ signal }) => apiGet<{ items: Person[] }>("/people", signal) });
  if (people.isPending) return <Skeletons rows={5} />;
  if (people.isError) return <Trouble {...wordsOf(people.error)} />;
  return (
    <section className="mb-5" aria-labelledby="people-title">
      <h2 id="people-title" className="mb-1">
        People
      </h2>
      <Table>
        <thead>
          <tr>
            <th scope="col">Name</th>
            <th scope="col">Roles</th>
            <th scope="col">Queues</th>
            <th scope="col" className="text-end">
              Keys
            </th>
            <th scope="col">Last seen</th>
          </tr>
        </thead>
        <tbody>
          {people.data.items.map((p) => (
            <tr key={p.id}>
              <td>
                <strong>{p.name}</strong>
                <div className="text-2 small">{p.email}</div>
              </td>
              <td>{p.roles.join(", ")}</td>
              <td className="text-2">{p.queues.join(", ") || "none"}</td>
              <td className="num">{p.keys || ""}</td>
              <td className="text-nowrap">{p.lastSeenAt ? <When at={p.lastSeenAt} /> : <span className="text-3">never</span>}</td>
            </tr>
          ))}
        </tbody>
      </Table>
    </section>
  );
}

function Types() {
  const { me } = useMe();
  return (
    <section aria-labelledby="types-title">
      <h2 id="types-title" className="mb-1">
        Record types and their fields
      </h2>
      <Table>
        <thead>
          <tr>
            <th scope="col">Type</th>
            <th scope="col">Kind</th>
            <th scope="col">Parent</th>
            <th scope="col">Fields</th>
          </tr>
        </thead>
        <tbody>
          {me.recordTypes.map((t) => (
            <tr key={t.key}>
              <td className="text-nowrap">
                <Icon name={t.icon} /> <strong className="ms-1">{t.label}</strong> <code className="text-3">{t.key}</code>
              </td>
              <td>{t.kind}</td>
              <td className="text-2">{t.parent.map((a) => me.recordTypes.find((x) => x.key === a)?.label).join(", ")}</td>
              <td className="text-2">{t.fields.map((f) => f.label).join(", ")}</td>
            </tr>
          ))}
        </tbody>
      </Table>
      <h2 className="mt-4 mb-1">Document types and their properties</h2>
      <Table>
        <thead>
          <tr>
            <th scope="col">Type</th>
            <th scope="col">Title</th>
            <th scope="col">Properties</th>
          </tr>
        </thead>
        <tbody>
          {me.documentTypes.map((t) => (
            <tr key={t.key}>
              <td className="text-nowrap">
                <Icon name={t.icon} /> <strong className="ms-1">{t.label}</strong>
                {t.confidential ? <span className="chip plum ms-2">confidential</span> : null}
              </td>
              <td>
                <code>{t.titlePattern}</code>
              </td>
              <td className="text-2">{t.properties.map((p) => p.label).join(", ")}</td>
            </tr>
          ))}
        </tbody>
      </Table>
    </section>
  );
}
