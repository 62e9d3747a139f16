"use client";
import { useQueryClient } from "@tanstack/react-query";
import { createContext, type ReactNode, useContext, useEffect, useMemo, useState, useSyncExternalStore } from "react";
import { Button, CloseButton, ProgressBar } from "react-bootstrap";
import { countText, sizeText } from "../kit/words.ts";
import { useMe } from "../people/me-context.tsx";
import { sendFile, type Upload, UploadQueue, type UploadTarget } from "./upload-queue.ts";

interface Uploads {
  add(files: readonly File[], target: UploadTarget): void;
}
const UploadsContext = createContext<Uploads | null>(null);
const nothing: readonly Upload[] = [];
/** How long the list stays when everything was taken in, ms; with refusals it stays until it is closed. */
const STAYS_MS = 6000;

/** Sends files with progress for each. Leaving a page does not stop it. */
export function UploadsProvider({ children }: { children: ReactNode }) {
  const { me } = useMe();
  const client = useQueryClient();
  const [queue] = useState(
    () =>
      new UploadQueue(sendFile, () => {
        for (const key of ["arrivals", "arrivalCounts"]) void client.invalidateQueries({ queryKey: [key] });
      }),
  );
  const uploads = useSyncExternalStore(queue.subscribe, queue.snapshot, () => nothing);
  const value = useMemo(
    () => ({
      add: (files: readonly File[], target: UploadTarget) =>
        queue.add(files, target, me.queues.find((q) => q.key === target.queue)?.limits ?? me.limits),
    }),
    [queue, me.limits, me.queues],
  );
  const done = uploads.filter((u) => u.state === "received").length;
  const refused = uploads.filter((u) => u.state === "refused");
  const busy = uploads.some((u) => u.state === "waiting" || u.state === "sending");
  const allIn = uploads.length > 0 && !busy && refused.length === 0;
  useEffect(() => {
    if (!allIn) return;
    const timer = setTimeout(() => queue.clear(), STAYS_MS);
    return () => clearTimeout(timer);
  }, [allIn, queue]);
  return (
    <UploadsContext.Provider value={value}>
      {children}
      {uploads.length > 0 ? (
        <section className="tray" aria-label="Uploads">
          <div className="d-flex align-items-center gap-2 px-3 py-2">
            <strong role="status">
              {busy
                ? `Uploading ${done} of ${uploads.length}`
                : refused.length > 0
                  ? `${done} received, ${refused.length} not`
                  : `${countText(done, "document")} received`}
            </strong>
            {busy ? (
              <Button size="sm" variant="plain" className="ms-auto" onClick={() => queue.stop()}>
                Stop
              </Button>
            ) : (
              <CloseButton className="ms-auto" aria-label="Close" onClick={() => queue.clear()} />
            )}
          </div>
          {busy ? (
            <ProgressBar
              className="rounded-0"
              now={uploads.reduce((s, u) => s + (u.state === "received" || u.state === "refused" ? 1 : u.share), 0)}
              max={uploads.length}
              aria-label="All documents"
            />
          ) : null}
          <div className="rows" tabIndex={0} role="region" aria-label="Details">
            {[
              ...refused,
              ...uploads.filter((u) => u.state === "sending"),
              ...uploads.filter((u) => u.state === "waiting"),
              ...uploads.filter((u) => u.state === "received"),
            ]
              .slice(0, 60)
              .map((u) => (
                <div key={u.id} className="upload">
                  <div className="d-flex gap-2">
                    <span className="text-truncate flex-grow-1">{u.name}</span>
                    <span className="text-3">{u.sizeBytes > 0 ? sizeText(u.sizeBytes) : ""}</span>
                    <span className={u.state === "refused" ? "problem" : "text-2"}>{u.state}</span>
                  </div>
                  {u.state === "sending" ? <ProgressBar now={u.share * 100} className="mt-1" aria-label={u.name} /> : null}
                  {u.why ? <div className="problem">{u.why}</div> : null}
                </div>
              ))}
          </div>
        </section>
      ) : null}
    </UploadsContext.Provider>
  );
}

/** Sends files in. */
export function useUploads(): Uploads {
  const value = useContext(UploadsContext);
  if (!value) throw new Error("UploadsProvider is missing above");
  return value;
}
