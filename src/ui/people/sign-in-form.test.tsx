import { cleanup, fireEvent, render, screen } from "@testing-library/react";
import { SignInForm } from "./sign-in-form.tsx";

const real = globalThis.fetch;
afterEach(() => {
  cleanup();
  globalThis.fetch = real;
});
const draw = (answer: () => Promise<Response>): void => {
  globalThis.fetch = answer;
  render(<SignInForm to="/arrivals" />);
  fireEvent.change(screen.getByLabelText("Mail address"), { target: { value: "a@b.example" } });
  fireEvent.change(screen.getByLabelText("Password"), { target: { value: "a long password" } });
  fireEvent.click(screen.getByRole("button", { name: "Sign in" }));
};

describe("Signing in", () => {
  test.each([
    [401, /is wrong/],
    [429, /Too many attempts/],
    [500, /No connection/],
  ])("an answer of %i says what it means, and one can try again", async (status, words) => {
    draw(async () => new Response("{}", { status }));
    expect((await screen.findByRole("alert")).textContent).toMatch(words);
    expect(screen.getByRole<HTMLButtonElement>("button", { name: "Sign in" }).disabled).toBe(false);
  });
  test("a program that cannot be reached is said to be away", async () => {
    draw(() => Promise.reject(new TypeError("Failed to fetch")));
    expect((await screen.findByRole("alert")).textContent).toMatch(/No connection/);
  });
  test("while it is asked, the button cannot be pressed again", async () => {
    draw(() => new Promise(() => {}));
    expect((await screen.findByRole<HTMLButtonElement>("button", { name: "Signing in …" })).disabled).toBe(true);
  });
});
