"use client";
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useCallback } from "react";
import type { SectionAct, SectionMove } from "#server/sections/change-sections.ts";
import { apiSend, queryOf } from "../kit/api.ts";
import { useNotices } from "../kit/notices.tsx";
import { useInStep } from "../kit/use-in-step.ts";
import { countText } from "../kit/words.ts";
import { recordPath } from "../records/record-href.ts";

interface Of {
  readonly company: string;
  readonly type: string;
  readonly key: string;
}
const lastOf = (path: string): string => path.split("/").at(-1) ?? path;

/** Moves documents between a record's sections and changes its sections, with undo; every window that shows the record follows. */
export function useSections(of: Of) {
  const client = useQueryClient();
  const notices = useNotices();
  const again = useCallback((): void => {
    for (const key of ["record", "recordDocuments"]) void client.invalidateQueries({ queryKey: [key] });
  }, [client]);
  const tell = useInStep(`record ${of.company} ${of.type} ${of.key}`, again);
  const send = useCallback(
    (act: SectionAct) =>
      apiSend<{ moved: readonly SectionMove[] }>("POST", `${recordPath(of)}/sections${queryOf({ company: of.company })}`, act),
    [of],
  );
  const changed = useCallback((): void => {
    again();
    tell();
  }, [again, tell]);
  /** Puts every document back to where it was: a move for each section that they came from. */
  const putBack = useCallback(
    async (moved: readonly SectionMove[]): Promise<void> => {
      for (const from of new Set(moved.map((m) => m.from)))
        await send({ act: "move", papers: moved.filter((m) => m.from === from).map((m) => m.code), to: from });
      notices.done("Reset");
      changed();
    },
    [changed, notices, send],
  );
  const act = useMutation({
    mutationFn: (what: SectionAct) => send(what),
    onSuccess: ({ moved }, what) => {
      changed();
      // A document that stood in a section that is gone cannot be put back there.
      const undo = { undo: () => void putBack(moved).catch(notices.wrong) };
      if (what.act === "move")
        notices.done(
          `${moved.length === 1 ? (moved[0]?.title ?? "") : countText(moved.length, "document")} ${what.to === null ? "removed from its section" : `moved to ${lastOf(what.to)}`}`,
          moved.length > 0 ? undo : {},
        );
      else if (what.act === "place")
        notices.done(
          moved.length === 0 ? "No section accepts these documents" : `${countText(moved.length, "document")} sorted`,
          moved.length > 0 ? undo : {},
        );
      else
        notices.done(
          what.act === "apply"
            ? "It uses the record type's sections"
            : what.act === "reset"
              ? "Use the record type's sections"
              : "Sections saved",
        );
    },
    onError: notices.wrong,
  });
  return { act: act.mutate, isBusy: act.isPending, preview: () => send({ act: "place", dryRun: true }) };
}
