"use client";
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { Button } from "react-bootstrap";
import type { RecordAnswer } from "#server/records/load-record-page.ts";
import { MoveQuestion } from "../documents/move-question.tsx";
import { apiSend } from "../kit/api.ts";
import { useNotices } from "../kit/notices.tsx";
import { countText } from "../kit/words.ts";
import { useMe } from "../people/me-context.tsx";
import { folderHref } from "../repository/folder-href.ts";
import { recordPath } from "./record-href.ts";

/** Says that a record's folder is not where the filing plan would have it by now, and moves it when somebody wants that. */
export function FolderNote({ record: r }: { record: RecordAnswer }) {
  const { me } = useMe();
  const notices = useNotices();
  const client = useQueryClient();
  const [asking, setAsking] = useState(false);
  const move = useMutation({
    mutationFn: () =>
      apiSend<{ move: { state: string; clashes: number; path: string | null; plan: string } | null }>(
        "POST",
        `${recordPath(r)}/move-folder?company=${r.company}`,
      ),
    onSuccess: ({ move: done }) => {
      setAsking(false);
      void client.invalidateQueries();
      if (done && done.clashes > 0) notices.wrong(new Error("The name is taken there. Nothing was overwritten."));
      else notices.done("Folder moved", done?.path ? { more: done.path.split("/").join(" › "), href: folderHref(done.path) } : {});
    },
    onError: notices.wrong,
  });
  const step = r.outOfStep;
  if (!step || !me.may.file) return null;
  return (
    <div className="moves-note d-flex align-items-center gap-3 mx-3 mx-md-4 my-2" role="status">
      <span className="flex-grow-1" style={{ minWidth: 0 }}>
        According to the filing plan, its folder belongs at <strong className="text-break">{step.to.split("/").join(" › ")}</strong>
      </span>
      <Button
        size="sm"
        variant="plain"
        disabled={move.isPending}
        onClick={() => (me.preferences.asksBeforeMove ? setAsking(true) : move.mutate())}
      >
        Move folder with {countText(step.documents, "document")}
      </Button>
      <MoveQuestion
        move={asking ? { ...step, isFile: false } : null}
        isBusy={move.isPending}
        onMove={() => move.mutate()}
        onHide={() => setAsking(false)}
      />
    </div>
  );
}
