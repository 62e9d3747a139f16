import { useQueryClient } from "@tanstack/react-query";
import { useRouter } from "next/navigation";
import { useCallback, useEffect, useRef, useState } from "react";
import type { ArrivalAnswer } from "#server/arrivals/list-arrivals.ts";
import type { Filed } from "#server/documents/file-away.ts";
import { whatItHadDecided } from "../automatic-filing/held-back.ts";
import { apiSend, sentenceOf } from "../kit/api.ts";
import { type UnderWay, useNotices } from "../kit/notices.tsx";
import { forgetSheet, keepSheet, type SheetState } from "./kept-sheet.ts";

/** Nobody has looked at a document that has been on screen for so short a time, ms: a second press of the key that filed the one before is no wish. */
const UNSEEN_MS = 250;

interface Going {
  readonly notice: UnderWay;
  /** It is to be taken back as soon as it is filed. */
  isUnwanted: boolean;
}

/**
 * Filing as the table of arrivals sees it. The next document opens while the one before is still being filed; should that be refused, it is back in its place with its
 * sheet as it was, and a notice that stays says so. Nothing is opened under the clerk's hands.
 */
export function useFiling({
  goOn,
  drop,
  open,
  refresh,
}: {
  /** Opens the document after this one. */
  goOn: (arrival: ArrivalAnswer) => void;
  /** Takes rows out of the list for good. */
  drop: (ids: readonly string[]) => void;
  /** Opens a document by its id. */
  open: (id: string) => void;
  refresh: () => void;
}) {
  const notices = useNotices();
  const client = useQueryClient();
  const router = useRouter();
  const [away, setAway] = useState<ReadonlySet<string>>(new Set());
  const going = useRef(new Map<string, Going>());
  const goneOnAt = useRef(-Infinity);
  const isGoingOn = useRef(false);
  const stands = useRef(true);
  useEffect(() => {
    stands.current = true;
    return () => void (stands.current = false);
  }, []);
  // What is undone or opened from a notice may be so when another screen has come.
  const openFromNotice = (id: string): void => (stands.current ? open(id) : router.push(`/arrivals?at=${id}`));
  const takeBack = (filed: Filed, arrival: ArrivalAnswer): void =>
    void apiSend("POST", `/documents/${filed.code}/unfile`).then(() => {
      refresh();
      openFromNotice(arrival.id);
    }, notices.wrong);
  const comeBack = (id: string): void => setAway((now) => new Set([...now].filter((other) => other !== id)));
  return {
    /** Documents that are being filed: they are out of the list until it is known. */
    away,
    isTooSoon: useCallback((): boolean => performance.now() - goneOnAt.current < UNSEEN_MS, []),
    /** Another document has been drawn: only now can it be looked at. */
    onShown: useCallback((): void => {
      if (isGoingOn.current) goneOnAt.current = performance.now();
      isGoingOn.current = false;
    }, []),
    /** It has been sent, and nothing is to be asked: the next document opens. */
    onFiling: (arrival: ArrivalAnswer, title: string): void => {
      goneOnAt.current = performance.now();
      isGoingOn.current = true;
      const mine: Going = {
        isUnwanted: false,
        notice: notices.begin(`Filing: ${title}`, { undo: () => void (mine.isUnwanted = true) }),
      };
      going.current.set(arrival.id, mine);
      setAway((now) => new Set(now).add(arrival.id));
      goOn(arrival);
    },
    onFiled: (filed: Filed, arrival: ArrivalAnswer, isOpen = true): void => {
      const mine = going.current.get(arrival.id);
      going.current.delete(arrival.id);
      forgetSheet(client, arrival.id);
      // Whoever has gone on meanwhile stays where they are.
      if (!mine && isOpen) {
        goneOnAt.current = performance.now();
        isGoingOn.current = true;
        goOn(arrival);
      }
      drop([arrival.id]);
      comeBack(arrival.id);
      if (mine?.isUnwanted) {
        takeBack(filed, arrival);
        return;
      }
      const options = { more: filed.path.replaceAll("/", " › "), undo: () => takeBack(filed, arrival) };
      if (mine) mine.notice.done(`Filed: ${filed.title}`, options);
      else notices.done(`Filed: ${filed.title}`, options);
      if (arrival.isHeldBack)
        void whatItHadDecided(filed.code).then((words) => {
          if (words) notices.done(filed.title, { more: words });
        }, notices.wrong);
      void client.invalidateQueries({ queryKey: ["record"] });
      refresh();
    },
    /** It was refused when its sheet had gone already. */
    onRefused: (error: unknown, arrival: ArrivalAnswer, state: SheetState): void => {
      going.current.get(arrival.id)?.notice.close();
      going.current.delete(arrival.id);
      keepSheet(client, arrival.id, { ...state, why: sentenceOf(error) });
      comeBack(arrival.id);
      notices.notDone(`Not filed: ${arrival.fileName}`, error, { label: "Open it", run: () => openFromNotice(arrival.id) });
      refresh();
    },
  };
}
