import { FileEarmarkText, Folder2 } from "react-bootstrap-icons";

/** A place in the repository: its folders two to a line, and the file. */
export function PlaceSteps({ folder, fileName }: { folder: readonly string[]; fileName: string | null }) {
  const lines = Array.from({ length: Math.ceil(folder.length / 2) }, (_, i) => folder.slice(i * 2, i * 2 + 2));
  return (
    <ul className="place">
      {lines.map((steps, i) => (
        <li key={i} style={{ paddingLeft: i * 14 }}>
          <Folder2 size={15} aria-hidden="true" />
          <span>{steps.join(" › ")}</span>
        </li>
      ))}
      {fileName ? (
        <li style={{ paddingLeft: lines.length * 14 }}>
          <FileEarmarkText size={15} aria-hidden="true" />
          <strong>{fileName}</strong>
        </li>
      ) : null}
    </ul>
  );
}
