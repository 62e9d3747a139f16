import { cleanup, fireEvent, render, screen, waitFor } from "@testing-library/react";
import { useState } from "react";
import { Dialog } from "./dialog.tsx";

afterEach(cleanup);

function Page() {
  const [asks, setAsks] = useState(false);
  return (
    <>
      <button type="button" onClick={() => setAsks(true)}>
        ask
      </button>
      <Dialog show={asks} onHide={() => setAsks(false)} aria-label="A question">
        <input aria-label="Why" autoFocus />
      </Dialog>
    </>
  );
}

test("a dialog is there at once, and gone at once when it is closed right after", async () => {
  render(<Page />);
  const button = screen.getByRole("button", { name: "ask" });
  button.focus();
  fireEvent.click(button);
  expect(screen.getByRole("dialog").contains(document.activeElement)).toBe(true);
  // Single keys of the page stand still while it is open: they look for this.
  expect(document.querySelector(".modal.show")).toBeTruthy();
  // The end of a transition of something within it, a ring of focus, is none of its own.
  fireEvent.transitionEnd(screen.getByLabelText("Why"));
  fireEvent.keyDown(screen.getByLabelText("Why"), { key: "Escape", code: "Escape" });
  expect(screen.queryByRole("dialog")).toBeNull();
  expect(document.querySelector(".modal-backdrop")).toBeNull();
  await waitFor(() => expect(document.activeElement).toBe(button));
});
