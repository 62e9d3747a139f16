import type { Box } from "#core/reading/page-lines.ts";

/** Something of the document that is pointed at from beside it, so that the page shows it. */
export type PointAt = (place: { readonly page: number; readonly box: Box; readonly words: string } | null) => void;

/** What makes something on screen show on the page where it stands, when one points at it or comes to it by Tab. Nothing for what stands on no page. */
export function pointing(at: { readonly text: string; readonly page: number | null; readonly box: Box | null }, onPoint: PointAt) {
  const { page, box } = at;
  if (page === null || box === null) return {};
  const point = (): void => onPoint({ page, box, words: at.text });
  return { onMouseEnter: point, onFocus: point, tabIndex: 0 };
}
