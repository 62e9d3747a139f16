import type { QueryClient } from "@tanstack/react-query";
import type { FieldValues } from "#core/records/record-type.ts";
import type { PageMark } from "../pages/marks.ts";
import type { ReachingClip } from "../reach/reach-choice.tsx";
import type { Chosen } from "./clip-to.tsx";

/** How a document is to be filed, as it is sent. */
export interface Wish {
  readonly documentType: string;
  readonly clips: readonly ReachingClip[];
  readonly properties: FieldValues;
  readonly title?: string;
  readonly shelf?: number;
}
/** What somebody did on a filing sheet. */
export interface SheetState {
  /** Records that were chosen; null while those stand that came with the document. */
  readonly picked: readonly Chosen[] | null;
  readonly pickedType: string | null;
  readonly typed: FieldValues;
  /** Words on the page that were pointed at, by property. */
  readonly pointed: ReadonlyMap<string, { readonly value: string; readonly page: number; readonly box: PageMark["box"] }>;
  readonly title: string | null;
  readonly reaches: ReadonlyMap<string, readonly string[]>;
  readonly shelf: number | null;
  /** What is to be agreed to before it is filed: its clips would show on many records. */
  readonly wide: Wish | null;
}
/** A sheet whose document was not filed after all, and why. */
export interface KeptSheet extends SheetState {
  readonly why: string | null;
}

const keyOf = (arrival: string): readonly string[] => ["kept sheet", arrival];

/** Keeps what was done on the sheet of an arrival until it is filed or the program is left. */
export function keepSheet(client: QueryClient, arrival: string, sheet: KeptSheet): void {
  // Nobody watches it, and it is not to be fetched again: without this it would be forgotten after some minutes.
  client.setQueryDefaults(["kept sheet"], { gcTime: Infinity });
  client.setQueryData(keyOf(arrival), sheet);
}

/** The sheet that was kept of an arrival. */
export const keptSheet = (client: QueryClient, arrival: string): KeptSheet | undefined => client.getQueryData<KeptSheet>(keyOf(arrival));

/** Forgets the sheet of an arrival that is filed. */
export const forgetSheet = (client: QueryClient, arrival: string): void => client.removeQueries({ queryKey: keyOf(arrival) });
