/** The kind of what is dragged, when it is documents that are filed already. */
const KIND = "application/x-amber-papers";

/** Lets documents be dragged, also to another window. */
export function dragPapers(transfer: DataTransfer, codes: readonly string[]): void {
  transfer.setData(KIND, codes.join(","));
  transfer.effectAllowed = "copyMove";
}

/** Whether documents are what is dragged; what they are is told only when they are dropped. */
export const arePapers = (transfer: DataTransfer): boolean => transfer.types.includes(KIND);

/** The codes of the documents that were dragged here; none when something else was. */
export function draggedPapers(transfer: DataTransfer): readonly string[] {
  const codes = transfer.getData(KIND);
  return codes === "" ? [] : codes.split(",");
}
