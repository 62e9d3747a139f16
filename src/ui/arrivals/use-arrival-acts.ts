import { useMutation } from "@tanstack/react-query";
import type { ManyWish } from "#server/arrivals/change-many.ts";
import { apiSend } from "../kit/api.ts";
import { useNotices } from "../kit/notices.tsx";
import { useWarnBeforeLeaving } from "../kit/use-warn-before-leaving.ts";
import { countText } from "../kit/words.ts";
import type { HandOverWish } from "./hand-over-dialog.tsx";

interface Changed {
  readonly done: number;
  /** Codes of what was filed. */
  readonly filed?: readonly string[];
  readonly failures: readonly { readonly what: string; readonly why: string }[];
}
interface Wish {
  readonly ids: readonly string[];
  readonly action: ManyWish["action"];
  readonly reason?: string;
  readonly junk?: boolean;
  readonly person?: string;
  readonly queue?: string;
  readonly documentType?: string;
}

/** Arrivals that the API changes in one call. */
const AT_ONCE = 500;

/** What is said while it is done to more than one call takes. */
const going: Readonly<Record<ManyWish["action"], string>> = {
  setAside: "Setting aside",
  restore: "Restoring",
  readAgain: "Reading again",
  handOver: "Assigning",
  documentType: "Setting the type",
  fileSure: "Filing",
};

/** The same change to any number of arrivals, some hundred at a time; what could not be done is listed. */
async function changeMany(input: Wish, cameTo: (many: number) => void): Promise<Changed> {
  const sum = { done: 0, filed: [] as string[], failures: [] as Changed["failures"][number][] };
  for (let at = 0; at < input.ids.length; at += AT_ONCE) {
    const part = await apiSend<Changed>("POST", "/arrivals/bulk", { ...input, ids: input.ids.slice(at, at + AT_ONCE) });
    sum.done += part.done;
    sum.filed.push(...(part.filed ?? []));
    sum.failures.push(...part.failures);
    cameTo(at + AT_ONCE);
  }
  return sum;
}

/**
 * What can be done with arrivals beside filing them, one or many, with what is said afterwards. `drop` takes rows out of the list at once, `goOnFrom`
 * opens the next one when the open one is among them.
 */
export function useArrivalActs({
  refresh,
  drop,
  goOnFrom,
}: {
  refresh: () => void;
  drop: (ids: readonly string[]) => void;
  goOnFrom: (ids: readonly string[]) => void;
}) {
  const notices = useNotices();
  const changeAll = async (wish: Wish): Promise<Changed> => {
    if (wish.ids.length <= AT_ONCE) return changeMany(wish, () => {});
    const words = (many: number): string =>
      `${going[wish.action]}: ${many.toLocaleString("en-GB")} of ${countText(wish.ids.length, "document")}`;
    const notice = notices.begin(words(0));
    try {
      return await changeMany(wish, (many) => notice.say(words(Math.min(many, wish.ids.length))));
    } finally {
      notice.close();
    }
  };
  const bulk = useMutation({ mutationFn: changeAll, onError: notices.wrong, onSettled: refresh });
  // What has not been sent yet would not be done.
  useWarnBeforeLeaving(bulk.isPending && bulk.variables.ids.length > AT_ONCE);
  const told = (answer: Changed, what: string, done: () => void): void =>
    answer.failures.length > 0
      ? notices.wrong(new Error(`${answer.failures.length} were not ${what}: ${answer.failures[0]?.why}`))
      : done();
  const takeBack = async (codes: readonly string[]): Promise<void> => {
    let failed: unknown = null;
    for (const code of codes) await apiSend("POST", `/documents/${code}/unfile`).catch((error: unknown) => (failed = error));
    if (failed !== null) notices.wrong(failed);
    refresh();
  };
  return {
    setAside: (ids: readonly string[], reason: string, junk: boolean): void => {
      goOnFrom(ids);
      drop(ids);
      bulk.mutate(
        { ids, action: "setAside", reason, junk },
        {
          onSuccess: (answer) =>
            told(answer, "set aside", () =>
              notices.done(`${countText(answer.done, "document")} set aside`, {
                more: junk ? "Kept in the register. Future mail from this sender is marked." : "Kept in the register.",
                undo: () => bulk.mutate({ ids, action: "restore", reason: "undone" }),
              }),
            ),
        },
      );
    },
    /** Files those of them that the program is sure of; taken back in one go for as long as that is offered, and then from each one's document. */
    fileSure: (ids: readonly string[]): void => {
      goOnFrom(ids);
      bulk.mutate(
        { ids, action: "fileSure" },
        {
          onSuccess: (answer) => {
            if (answer.done > 0)
              notices.done(`${countText(answer.done, "document")} filed`, {
                more: "Each is on its record. Find lists them under “added by you”.",
                undo: () => void takeBack(answer.filed ?? []),
              });
            if (answer.failures.length > 0)
              notices.wrong(new Error(`${countText(answer.failures.length, "document")} not filed: ${answer.failures[0]?.why}`));
          },
        },
      );
    },
    handOver: (ids: readonly string[], { whom, word, ...to }: HandOverWish): void => {
      goOnFrom(ids);
      bulk.mutate(
        { ids, action: "handOver", reason: word, ...to },
        {
          onSuccess: (answer) => told(answer, "assigned", () => notices.done(`${countText(answer.done, "document")} assigned to ${whom}`)),
        },
      );
    },
    sayType: (ids: readonly string[], documentType: string): void =>
      bulk.mutate(
        { ids, action: "documentType", documentType },
        {
          onSuccess: (answer) => told(answer, "changed", () => notices.done(`The type of ${countText(answer.done, "document")} is set`)),
        },
      ),
    readAgain: (ids: readonly string[]): void => bulk.mutate({ ids, action: "readAgain" }),
    rename: (id: string, fileName: string): void => void apiSend("PATCH", `/arrivals/${id}`, { fileName }).then(refresh, notices.wrong),
  };
}
