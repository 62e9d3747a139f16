"use client";
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { Command } from "cmdk";
import { useRouter } from "next/navigation";
import { type ComponentType, useDeferredValue, useEffect, useRef, useState } from "react";

import type { Found } from "#server/search/find.ts";
import type { LookupHit } from "#server/records/look-up.ts";
import { Dialog } from "../kit/dialog.tsx";
import { apiGet, queryOf } from "../kit/api.ts";
import { Icon, kindIcon } from "../kit/icon.tsx";
import { useMe } from "../people/me-context.tsx";
import { recordHref } from "../records/record-href.ts";

/** For so long the list that stands on the screen is what Enter takes, without asking again, ms. */
const LOOKED_UP_FRESH_MS = 5_000;

/** Goes anywhere: places, records by key or title, documents by their words. */
export function JumpBox({
  shown,
  calls,
  places,
  onHide,
}: {
  shown: boolean;
  /** How often it was called for: each call puts the keyboard into the field, also while an earlier box is still closing. */
  calls: number;
  places: readonly { readonly href: string; readonly label: string; readonly icon: ComponentType<{ size?: number }> }[];
  onHide: () => void;
}) {
  const router = useRouter();
  const { company, recordType, documentType } = useMe();
  const [typed, setTyped] = useState("");
  const q = useDeferredValue(typed.trim());
  const field = useRef<HTMLInputElement>(null);
  useEffect(() => {
    if (shown) field.current?.focus();
  }, [shown, calls]);
  const client = useQueryClient();
  const lookupQuery = (asked: string) => ({
    queryKey: ["lookup", asked, company, "jump"],
    queryFn: ({ signal }: { signal: AbortSignal }) =>
      apiGet<{ items: LookupHit[] }>(`/records/lookup${queryOf({ q: asked, company, limit: 8 })}`, signal),
  });
  const records = useQuery({ ...lookupQuery(q), enabled: shown, placeholderData: (p) => p });
  const documents = useQuery({
    queryKey: ["jumpFind", q, company],
    queryFn: ({ signal }) => apiGet<Found>(`/find${queryOf({ q, company, limit: 6 })}`, signal),
    enabled: shown && q.length > 1,
    placeholderData: (p) => p,
  });
  const go = (href: string): void => {
    onHide();
    setTyped("");
    router.push(href);
  };
  const matching = places.filter((p) => p.label.toLowerCase().startsWith(q.toLowerCase()));
  // What Enter takes: the first of all, also when better ones come in behind it, until somebody chooses with the arrows or the mouse.
  const [chosen, setChosen] = useState<string | null>(null);
  const byHand = useRef(false);
  const firstRecord = records.data?.items[0];
  const firstDocument = q.length > 1 ? documents.data?.items[0] : undefined;
  const first = matching[0]?.href ?? (firstRecord ? `record ${firstRecord.id}` : undefined) ?? firstDocument?.code ?? "find";
  /**
   * Enter with nothing chosen by hand goes to the first of all. Who types fast presses it before the answer is there: then it goes where
   * that answer leads, whatever the list shows until then.
   */
  const enterFirst = async (asked: string): Promise<void> => {
    const place = places.find((p) => asked !== "" && p.label.toLowerCase().startsWith(asked.toLowerCase()));
    if (place) return go(place.href);
    const found = await client.fetchQuery({ ...lookupQuery(asked), staleTime: LOOKED_UP_FRESH_MS }).catch(() => null);
    const hit = found?.items[0];
    if (hit) return go(recordHref(hit));
    const document = asked === q && !documents.isPlaceholderData ? firstDocument : undefined;
    if (document) return go(`/documents/${document.code}`);
    if (asked !== "") go(`/find${queryOf({ q: asked })}`);
  };
  return (
    <Dialog
      show={shown}
      onHide={() => {
        onHide();
        setTyped("");
      }}
      onShow={() => field.current?.focus()}
      dialogClassName="jump-box"
      aria-label="Go to"
      size="lg"
    >
      <Command
        shouldFilter={false}
        label="Go to a record, document or page"
        value={chosen ?? first}
        onValueChange={(value) => {
          if (byHand.current) setChosen(value);
        }}
        onPointerMoveCapture={() => {
          byHand.current = true;
        }}
        onKeyDownCapture={(e) => {
          byHand.current = e.key.startsWith("Arrow");
          if (e.key !== "Enter" || chosen !== null || e.nativeEvent.isComposing) return;
          e.preventDefault();
          e.stopPropagation();
          // What the field holds, not what was last drawn: the last letter may not have been drawn yet.
          void enterFirst((e.target as HTMLInputElement).value.trim());
        }}
      >
        <Command.Input
          ref={field}
          autoFocus
          value={typed}
          onValueChange={(text) => {
            setTyped(text);
            setChosen(null);
          }}
          placeholder="Go to a record, document or page"
        />
        <Command.List>
          <Command.Empty className="p-3 text-2">Nothing found. Try a number, a name or a word.</Command.Empty>
          {matching.length > 0 ? (
            <Command.Group heading="Main menu">
              {matching.map(({ href, label, icon: PlaceIcon }) => (
                <Command.Item key={href} value={href} onSelect={() => go(href)}>
                  <PlaceIcon size={16} />
                  {label}
                </Command.Item>
              ))}
            </Command.Group>
          ) : null}
          {records.data && records.data.items.length > 0 ? (
            <Command.Group heading={q === "" ? "Recent records" : "Records"}>
              {records.data.items.map((r) => (
                <Command.Item key={r.id} value={`record ${r.id}`} onSelect={() => go(recordHref(r))}>
                  <Icon name={recordType(r.type)?.icon ?? ""} />
                  <code>{r.key}</code>
                  <span className="text-truncate">{r.title}</span>
                  <span className="text-3 ms-auto">{recordType(r.type)?.label}</span>
                </Command.Item>
              ))}
            </Command.Group>
          ) : null}
          {q.length > 1 && documents.data && documents.data.items.length > 0 ? (
            <Command.Group heading="Documents">
              {documents.data.items.map((d) => (
                <Command.Item key={d.code} value={d.code} onSelect={() => go(`/documents/${d.code}`)}>
                  <Icon name={kindIcon(d.kind)} />
                  <span className="text-truncate">{d.title}</span>
                  <code className="text-3">{d.code}</code>
                  <span className="text-3 ms-auto">{documentType(d.documentType)?.label}</span>
                </Command.Item>
              ))}
            </Command.Group>
          ) : null}
          {q.length > 1 ? (
            <Command.Group heading="Find">
              <Command.Item value="find" onSelect={() => go(`/find${queryOf({ q })}`)}>
                <Icon name="binoculars" />
                Find “{q}” in all documents
              </Command.Item>
            </Command.Group>
          ) : null}
        </Command.List>
      </Command>
    </Dialog>
  );
}
