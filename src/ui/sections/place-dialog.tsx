"use client";
import { useQuery } from "@tanstack/react-query";
import { Button, Modal } from "react-bootstrap";
import type { SectionMove } from "#server/sections/change-sections.ts";
import { Dialog } from "../kit/dialog.tsx";
import { wordsOf } from "../kit/api.ts";
import { Skeletons, Trouble } from "../kit/parts.tsx";
import { countText } from "../kit/words.ts";
import { useMe } from "../people/me-context.tsx";

/** Shows where the rules would put what is not placed, and does it after one word. */
export function PlaceDialog({
  preview,
  onPlace,
  onHide,
}: {
  preview: () => Promise<{ readonly moved: readonly SectionMove[] }>;
  onPlace: () => void;
  onHide: () => void;
}) {
  const { documentType } = useMe();
  const asked = useQuery({ queryKey: ["placePreview"], queryFn: preview, gcTime: 0, staleTime: 0 });
  const moved = asked.data?.moved ?? [];
  return (
    <Dialog show onHide={onHide} centered scrollable>
      <Modal.Header closeButton>
        <Modal.Title as="h2">Sort into sections</Modal.Title>
      </Modal.Header>
      <Modal.Body>
        {asked.isPending ? (
          <Skeletons rows={3} height={36} />
        ) : asked.isError ? (
          <Trouble {...wordsOf(asked.error)} />
        ) : moved.length === 0 ? (
          <p className="mb-0">No section accepts these document types. Move them by hand, or add the type to a section.</p>
        ) : (
          <table className="w-100 numbers">
            <thead>
              <tr>
                <th scope="col">Document</th>
                <th scope="col">Type</th>
                <th scope="col">Section</th>
              </tr>
            </thead>
            <tbody>
              {moved.map((m) => (
                <tr key={m.code}>
                  <td>{m.title}</td>
                  <td className="text-2">{documentType(m.documentType)?.label}</td>
                  <td>
                    <strong>{m.to?.replaceAll("/", " › ")}</strong>
                  </td>
                </tr>
              ))}
            </tbody>
          </table>
        )}
      </Modal.Body>
      <Modal.Footer>
        <Button variant="plain" onClick={onHide}>
          Cancel
        </Button>
        <Button disabled={moved.length === 0} onClick={onPlace}>
          Move {countText(moved.length, "document")}
        </Button>
      </Modal.Footer>
    </Dialog>
  );
}
