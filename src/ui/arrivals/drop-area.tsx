"use client";
import { type ReactNode, useId } from "react";
import { useDropzone } from "react-dropzone";
import { isDropTaken } from "../kit/taken-drops.ts";
import type { UploadTarget } from "./upload-queue.ts";
import { useUploads } from "./uploads.tsx";

/** Makes everything inside it take dropped files and folders, and pasted ones. `children` gets what opens the file and folder choosers. */
export function DropArea({
  target,
  label,
  disabled = false,
  className,
  children,
}: {
  target: UploadTarget;
  label: string;
  disabled?: boolean;
  className?: string;
  children: (choose: { files: () => void; folder: () => void }) => ReactNode;
}) {
  const uploads = useUploads();
  const folderId = useId();
  // react-dropzone walks through dropped folders and takes pasted files by itself.
  const zone = useDropzone({
    onDrop: (files, _, event) => files.length > 0 && !isDropTaken(event) && uploads.add(files, target),
    noClick: true,
    noKeyboard: true,
    disabled,
    useFsAccessApi: false,
  });
  return (
    <div {...zone.getRootProps({ className: `position-relative h-100 ${className ?? ""}` })}>
      <input {...zone.getInputProps({ "aria-label": "Choose files" })} data-testid="choose-files" />
      <input
        id={folderId}
        type="file"
        hidden
        multiple
        {...{ webkitdirectory: "" }}
        aria-label="Choose a folder"
        onChange={(e) => {
          uploads.add([...(e.target.files ?? [])], target);
          e.target.value = "";
        }}
      />
      {children({ files: zone.open, folder: () => document.getElementById(folderId)?.click() })}
      {zone.isDragActive ? <div className="drop-over">{label}</div> : null}
    </div>
  );
}
