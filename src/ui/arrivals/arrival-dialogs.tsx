"use client";
import type { ArrivalAnswer } from "#server/arrivals/list-arrivals.ts";
import { useMe } from "../people/me-context.tsx";
import { TimelineDialog } from "../timeline/timeline-dialog.tsx";
import { AskDialog } from "./ask-dialog.tsx";
import { HandOverDialog, type HandOverWish } from "./hand-over-dialog.tsx";
import { SetAsideDialog } from "./set-aside-dialog.tsx";

type Ids = readonly string[];

/** What is asked before something is done with one arrival or many. Of the five at most one is open. */
export function ArrivalDialogs({
  asking,
  handing,
  typing,
  renaming,
  timelineOf,
  onClose,
  onSetAside,
  onHandOver,
  onSayType,
  onRename,
}: {
  /** To be set aside. */
  asking: Ids | null;
  /** To be handed over. */
  handing: Ids | null;
  /** Of which the document type is to be said. */
  typing: Ids | null;
  renaming: ArrivalAnswer | null;
  timelineOf: { readonly id: string; readonly name: string } | null;
  onClose: () => void;
  onSetAside: (ids: Ids, reason: string, junk: boolean) => void;
  onHandOver: (ids: Ids, wish: HandOverWish) => void;
  onSayType: (ids: Ids, type: string) => void;
  onRename: (id: string, name: string) => void;
}) {
  const { me } = useMe();
  return (
    <>
      {asking ? <SetAsideDialog count={asking.length} onHide={onClose} onSet={(reason, junk) => onSetAside(asking, reason, junk)} /> : null}
      <HandOverDialog
        key={handing?.join() ?? "none"}
        count={handing?.length ?? 0}
        onHide={onClose}
        onHand={(wish) => {
          if (handing) onHandOver(handing, wish);
          onClose();
        }}
      />
      {typing ? (
        <AskDialog
          title={`What ${typing.length === 1 ? "is it" : "are they"}?`}
          label="Document type"
          start=""
          options={me.documentTypes.map((t) => ({ value: t.key, label: t.label }))}
          action="Set type"
          onHide={onClose}
          onAnswer={(type) => {
            onSayType(typing, type);
            onClose();
          }}
        />
      ) : null}
      {renaming ? (
        <AskDialog
          title="Rename"
          label="Name"
          start={renaming.fileName}
          action="Rename"
          onHide={onClose}
          onAnswer={(name) => {
            onRename(renaming.id, name);
            onClose();
          }}
        />
      ) : null}
      <TimelineDialog path={timelineOf ? `/arrivals/${timelineOf.id}/timeline` : null} title={timelineOf?.name ?? ""} onHide={onClose} />
    </>
  );
}
