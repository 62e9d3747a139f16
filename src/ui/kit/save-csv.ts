/** Fetches a list as CSV and gives it to the browser as a file. */
export async function saveCsv(path: string, fileName: string): Promise<void> {
  const answer = await fetch(path, { headers: { accept: "text/csv" } });
  if (!answer.ok) throw new Error("The list could not be loaded");
  const url = URL.createObjectURL(await answer.blob());
  const link = document.createElement("a");
  link.href = url;
  link.download = fileName;
  link.click();
  URL.revokeObjectURL(url);
}
