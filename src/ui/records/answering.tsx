"use client";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { Dropdown } from "react-bootstrap";
import type { RecordAnswer } from "#server/records/load-record-page.ts";
import { apiGet, apiSend } from "../kit/api.ts";
import { useNotices } from "../kit/notices.tsx";

/** Who answers for a record, and with the right to, the choice of another. */
export function Answering({ record: r }: { record: RecordAnswer }) {
  const notices = useNotices();
  const client = useQueryClient();
  const [isOpen, setOpen] = useState(false);
  const people = useQuery({
    queryKey: ["answering"],
    enabled: isOpen,
    queryFn: ({ signal }) => apiGet<{ items: readonly { id: string; name: string }[] }>("/checklists/people", signal),
  });
  const set = useMutation({
    mutationFn: (person: string | null) =>
      apiSend("POST", "/checklists/responsible", { records: [{ company: r.company, type: r.type, key: r.key }], person }),
    onSuccess: (_, person) => {
      const before = r.responsible?.isOwn ? r.responsible.id : null;
      notices.done(
        person === null
          ? "As on the parent account"
          : `${people.data?.items.find((p) => p.id === person)?.name ?? ""} is responsible for ${r.key}`,
        {
          undo: () => set.mutate(before),
        },
      );
      for (const key of ["record", "missing"]) void client.invalidateQueries({ queryKey: [key] });
    },
    onError: notices.wrong,
  });
  const name = r.responsible?.name ?? "nobody";
  if (!r.may.edit) return <>{name}</>;
  return (
    <Dropdown onToggle={setOpen}>
      <Dropdown.Toggle variant="quiet" className="p-0">
        {name}
      </Dropdown.Toggle>
      <Dropdown.Menu style={{ maxHeight: 320, overflowY: "auto" }}>
        {people.data?.items.map((p) => (
          <Dropdown.Item as="button" key={p.id} active={p.id === r.responsible?.id} onClick={() => set.mutate(p.id)}>
            {p.name}
          </Dropdown.Item>
        ))}
        {r.responsible?.isOwn && r.parent ? (
          <Dropdown.Item as="button" onClick={() => set.mutate(null)}>
            Whoever is responsible for {r.parent.title}
          </Dropdown.Item>
        ) : null}
      </Dropdown.Menu>
    </Dropdown>
  );
}
