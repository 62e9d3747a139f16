import { cleanup, fireEvent, screen } from "@testing-library/react";
import { useState } from "react";
import { flatten, type SectionTree, sectionTreeSchema } from "#core/sections/section-tree.ts";
import { renderOnPage } from "../kit/test-page.tsx";
import { everyNamed } from "./own-sections-dialog.tsx";
import { TreeEditor } from "./tree-editor.tsx";

const start = sectionTreeSchema.parse([
  { key: "a", label: "Order", documentTypes: ["supplierInvoice"] },
  { key: "b", label: "Loading", sections: [{ key: "c", label: "Pictures" }] },
]);
let now: SectionTree = start;
function Held({ onTree }: { onTree: (tree: SectionTree) => void }) {
  const [tree, setTree] = useState<SectionTree>(start);
  return (
    <TreeEditor
      tree={tree}
      errors={[{ path: "sections.b", message: "there is another section beside it" }]}
      onChange={(next) => {
        setTree(next);
        onTree(next);
      }}
    />
  );
}
const held = <Held onTree={(tree) => void (now = tree)} />;
beforeEach(() => void (now = start));
const paths = (): readonly string[] => flatten(now).map((p) => p.path);
afterEach(cleanup);

describe("A tree of sections that is written", () => {
  test("is renamed, moved, indented and taken out by buttons with names", () => {
    renderOnPage(held);
    fireEvent.change(screen.getByLabelText("Name of Order"), { target: { value: "Booking" } });
    expect(paths()).toEqual(["Booking", "Loading", "Loading/Pictures"]);
    fireEvent.click(screen.getByRole("button", { name: "Move Loading up" }));
    expect(paths()).toEqual(["Loading", "Loading/Pictures", "Booking"]);
    fireEvent.click(screen.getByRole("button", { name: "Move Booking into the section before it" }));
    expect(paths()).toEqual(["Loading", "Loading/Pictures", "Loading/Booking"]);
    fireEvent.click(screen.getByRole("button", { name: "Move Pictures out one level" }));
    expect(paths()).toEqual(["Loading", "Loading/Booking", "Pictures"]);
    fireEvent.click(screen.getByRole("button", { name: "Remove Pictures" }));
    expect(paths()).toEqual(["Loading", "Loading/Booking"]);
  });

  test("says what takes which documents, how it is shown and how it grows", () => {
    renderOnPage(held);
    fireEvent.change(screen.getByLabelText("When Order is shown"), { target: { value: "always" } });
    fireEvent.change(screen.getByLabelText("How Order grows"), { target: { value: "value:documentNumber" } });
    fireEvent.change(screen.getByLabelText("Colour of Order"), { target: { value: "plum" } });
    expect(now[0]).toMatchObject({ show: "always", growsBy: { of: "documentNumber", by: "value" }, tint: "plum" });
    // What has others in it cannot grow.
    expect(screen.getByLabelText("How Loading grows")).toHaveProperty("disabled", true);
    expect(screen.getByText("there is another section beside it")).toBeTruthy();
  });

  test("gets a new section that has to be named before it can be saved", () => {
    renderOnPage(held);
    fireEvent.click(screen.getByRole("button", { name: "Add a section" }));
    expect(everyNamed(now)).toBe(false);
    fireEvent.change(screen.getByLabelText("Name of this section"), { target: { value: "Letters/calls" } });
    expect(everyNamed(now)).toBe(false);
    fireEvent.change(screen.getByLabelText("Name of Letters/calls"), { target: { value: "Letters" } });
    expect(everyNamed(now)).toBe(true);
    expect(new Set(flatten(now).map((p) => p.section.key)).size).toBe(4);
  });
});
