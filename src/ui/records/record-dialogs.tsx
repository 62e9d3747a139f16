"use client";
import type { RecordAnswer } from "#server/records/load-record-page.ts";
import { PackDialog } from "../packs/pack-dialog.tsx";
import { OwnSectionsDialog } from "../sections/own-sections-dialog.tsx";
import { PlaceDialog } from "../sections/place-dialog.tsx";
import type { useSections } from "../sections/use-sections.ts";
import { ActivityDialog } from "./activity-dialog.tsx";

/** What is asked for in a dialog on a record's page. */
export type RecordDialog = "place" | "own" | "pack" | "write";

/** The dialogs of a record's page; one at a time, or none. */
export function RecordDialogs({
  shown,
  record: r,
  sections,
  onWritten,
  onHide,
}: {
  shown: RecordDialog | null;
  record: RecordAnswer;
  sections: ReturnType<typeof useSections>;
  onWritten: (code: string) => void;
  onHide: () => void;
}) {
  return (
    <>
      {shown === "place" ? (
        <PlaceDialog
          preview={sections.preview}
          onPlace={() => {
            sections.act({ act: "place", dryRun: false });
            onHide();
          }}
          onHide={onHide}
        />
      ) : null}
      {shown === "pack" ? <PackDialog records={[r]} total={1} canChain={r.chain.length > 1} onHide={onHide} /> : null}
      {shown === "write" ? <ActivityDialog record={r} onWritten={onWritten} onHide={onHide} /> : null}
      {shown === "own" ? (
        <OwnSectionsDialog
          tree={r.sections.tree}
          isOwn={r.sections.isOwn}
          hasTemplate={r.sections.hasTemplate}
          onAct={sections.act}
          onHide={onHide}
        />
      ) : null}
    </>
  );
}
