"use client";
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useRouter } from "next/navigation";
import { useEffect, useRef, useState } from "react";
import { Button, Form } from "react-bootstrap";
import { ArrowClockwise, Camera, Trash3 } from "react-bootstrap-icons";
import { type Corners, wholePicture } from "#core/pages/find-corners.ts";
import type { Colour } from "#core/pages/straighten-photo.ts";
import { Where } from "../frame/top-slot.tsx";
import { ApiProblem } from "../kit/api.ts";
import { useNotices } from "../kit/notices.tsx";
import { Empty } from "../kit/parts.tsx";
import { countText } from "../kit/words.ts";
import { useMe } from "../people/me-context.tsx";
import { CornerFrame } from "./corner-frame.tsx";
import { jpegOf, openPhoto, pdfOf } from "./pictures.ts";
import { usePageWorker } from "./use-worker.ts";

/** A photograph that was taken, and the page that is made of it. */
interface Shot {
  readonly id: string;
  readonly photo: Colour;
  readonly url: string;
  readonly corners: Corners;
  readonly isFound: boolean;
  readonly turns: number;
  readonly even: boolean;
  /** The page as it will be sent; null while it is being made. */
  readonly page: { readonly blob: Blob; readonly url: string } | null;
}

/** A page is made again when nothing was changed for so long, ms. */
const SETTLE_MS = 250;

/** The camera: several shots become one document, each cut to its page, straightened, in even light. */
export function CaptureScreen() {
  const { me, company } = useMe();
  const notices = useNotices();
  const client = useQueryClient();
  const router = useRouter();
  const work = usePageWorker();
  const camera = useRef<HTMLInputElement>(null);
  const [shots, setShots] = useState<readonly Shot[]>([]);
  const [at, setAt] = useState<string | null>(null);
  const [opening, setOpening] = useState(0);
  const [queue, setQueue] = useState(me.queues.find((q) => q.member)?.key ?? "general");
  const [name, setName] = useState("");
  // The same key for the same pages: sent twice over a bad line it is one arrival.
  const [sendKey, setSendKey] = useState(() => crypto.randomUUID());
  const current = shots.find((s) => s.id === at) ?? shots.at(-1);
  const change = (id: string, to: Partial<Shot>): void => {
    setShots((now) => now.map((s) => (s.id === id ? { ...s, ...to, page: to.page === undefined ? null : to.page } : s)));
    setSendKey(crypto.randomUUID());
  };
  const take = async (files: readonly File[]): Promise<void> => {
    for (const file of files) {
      setOpening((n) => n + 1);
      try {
        const { photo, url } = await openPhoto(file);
        const found = await work({ kind: "find", photo });
        const id = crypto.randomUUID();
        setShots((now) => [...now, { id, photo, url, corners: found.corners, isFound: found.isFound, turns: 0, even: true, page: null }]);
        setAt(id);
        setSendKey(crypto.randomUUID());
      } catch {
        notices.wrong(new Error(`${file.name} could not be opened as a picture. Take it again.`));
      } finally {
        setOpening((n) => n - 1);
      }
    }
  };
  // Pages are made as soon as nothing is changed for a moment; the last wish counts.
  useEffect(() => {
    const open = shots.filter((s) => s.page === null);
    if (open.length === 0) return;
    const timer = setTimeout(() => {
      for (const shot of open)
        void work({ kind: "make", photo: shot.photo, corners: shot.corners, even: shot.even, turns: shot.turns }).then(
          async ({ page }) => {
            const blob = await jpegOf(page);
            const made = { blob, url: URL.createObjectURL(blob) };
            setShots((now) => now.map((s) => (s === shot ? { ...s, page: made } : s)));
          },
          (error: unknown) => notices.wrong(error),
        );
    }, SETTLE_MS);
    return () => clearTimeout(timer);
  }, [shots, work, notices]);
  const send = useMutation({
    mutationFn: async () => {
      const pdf = await pdfOf(shots.flatMap((s) => (s.page ? [s.page.blob] : [])));
      const form = new FormData();
      form.set("queue", queue);
      if (company) form.set("company", company);
      form.set("source", "phone");
      form.set(
        "file",
        pdf,
        `${name.trim() || `Photograph ${new Date().toISOString().slice(0, 16).replace("T", " ").replace(":", ".")}`}.pdf`,
      );
      const answer = await fetch("/api/v1/arrivals", { method: "POST", body: form, headers: { "idempotency-key": sendKey } });
      if (!answer.ok) throw new ApiProblem(answer.status, await answer.json().catch(() => ({})));
      return (await answer.json()) as { id: string };
    },
    onSuccess: ({ id }) => {
      notices.done(`${countText(shots.length, "page")} sent`, { more: "Open document", href: `/arrivals?at=${id}` });
      setShots([]);
      setAt(null);
      setName("");
      setSendKey(crypto.randomUUID());
      void client.invalidateQueries({ queryKey: ["arrivals"] });
      router.refresh();
    },
    onError: (error) =>
      notices.wrong(error instanceof ApiProblem ? error : new Error("Not sent: no connection. The pages are still here; send again.")),
  });
  const isReady = shots.length > 0 && shots.every((s) => s.page !== null) && opening === 0;
  const shoot = (): void => camera.current?.click();
  return (
    <div className="capture">
      <Where title="Camera">{shots.length > 0 ? <span className="chip">{countText(shots.length, "page")}</span> : null}</Where>
      <input
        ref={camera}
        type="file"
        accept="image/*"
        capture="environment"
        multiple
        hidden
        data-testid="camera"
        onChange={(e) => {
          void take([...(e.target.files ?? [])]);
          e.target.value = "";
        }}
      />
      <div className="capture-main">
        {current ? (
          <div className="capture-pair">
            <section aria-label="Page in the picture">
              <CornerFrame
                url={current.url}
                width={current.photo.width}
                height={current.photo.height}
                corners={current.corners}
                onChange={(corners) => change(current.id, { corners })}
              />
              <p className="text-2 small mt-2 mb-0">
                {current.isFound
                  ? "Page found. Drag a corner to correct it."
                  : "No page found: drag the corners to it, or send the whole picture."}
              </p>
            </section>
            <section aria-label="Result" className="capture-page">
              {current.page ? (
                <img src={current.page.url} alt={`Page ${shots.indexOf(current) + 1} result`} />
              ) : (
                <div
                  className="skeleton"
                  style={{ width: "100%", aspectRatio: "210 / 297" }}
                  role="progressbar"
                  aria-busy="true"
                  aria-label="Working"
                />
              )}
            </section>
          </div>
        ) : (
          <Empty icon={<Camera size={36} />} title={opening > 0 ? "Opening …" : "Photograph a document"}>
            Lay it on a darker surface and photograph each page. All pages become one document.
            <div className="mt-3">
              <Button variant="plain" onClick={shoot}>
                Take first picture
              </Button>
            </div>
          </Empty>
        )}
      </div>
      {shots.length > 0 ? (
        <div className="capture-tools">
          <div className="capture-strip" role="list" aria-label="Pages">
            {shots.map((s, i) => (
              <div role="listitem" key={s.id}>
                <button
                  type="button"
                  aria-current={s === current ? "true" : undefined}
                  aria-label={`Page ${i + 1}`}
                  onClick={() => setAt(s.id)}
                >
                  {s.page ? <img src={s.page.url} alt="" /> : null}
                  <span>{i + 1}</span>
                </button>
              </div>
            ))}
            <Button variant="plain" onClick={shoot} aria-label="Add page">
              <Camera size={18} />
            </Button>
          </div>
          {current ? (
            <div className="d-flex flex-wrap gap-2">
              <Button size="sm" variant="plain" onClick={() => change(current.id, { turns: (current.turns + 1) % 4 })}>
                <ArrowClockwise size={14} /> Turn
              </Button>
              <Button size="sm" variant="plain" aria-pressed={!current.even} onClick={() => change(current.id, { even: !current.even })}>
                {current.even ? "Colour" : "Black and white"}
              </Button>
              <Button
                size="sm"
                variant="plain"
                onClick={() => change(current.id, { corners: wholePicture(current.photo.width, current.photo.height) })}
              >
                Whole picture
              </Button>
              <Button
                size="sm"
                variant="plain"
                onClick={() => {
                  setShots((now) => now.filter((s) => s.id !== current.id));
                  setSendKey(crypto.randomUUID());
                }}
              >
                <Trash3 size={13} /> Remove
              </Button>
            </div>
          ) : null}
          <div className="d-flex gap-2">
            <Form.Control
              aria-label="Name"
              placeholder="Name (optional)"
              value={name}
              maxLength={120}
              onChange={(e) => setName(e.target.value)}
            />
            <Form.Select aria-label="Queue" value={queue} onChange={(e) => setQueue(e.target.value)} style={{ maxWidth: 150 }}>
              {me.queues.map((q) => (
                <option key={q.key} value={q.key}>
                  {q.label}
                </option>
              ))}
            </Form.Select>
          </div>
        </div>
      ) : null}
      <div className="foot">
        <Button variant="plain" onClick={shoot} disabled={opening > 0}>
          <Camera size={15} /> {shots.length === 0 ? "Take a picture" : "Add page"}
        </Button>
        <Button className="last" disabled={!isReady || send.isPending || !me.may.add} onClick={() => send.mutate()}>
          {send.isPending ? "Sending …" : shots.length === 0 ? "Send" : `Send ${countText(shots.length, "page")}`}
        </Button>
      </div>
    </div>
  );
}
