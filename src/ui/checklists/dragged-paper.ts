/** The kind of what is dragged, when it is a paper that is filed already. */
const KIND = "application/x-amber-paper";

/** Lets a paper be dragged by its row. */
export function dragPaper(transfer: DataTransfer, code: string): void {
  transfer.setData(KIND, code);
  transfer.effectAllowed = "copyMove";
}

/** The code of the paper that was dragged here; null when something else was. */
export function draggedPaper(transfer: DataTransfer): string | null {
  const code = transfer.getData(KIND);
  return code === "" ? null : code;
}
