"use client";
import { useState } from "react";
import { Button, Form } from "react-bootstrap";
import { Loop } from "../kit/parts.tsx";

/** Signs a person in and takes them where they wanted to go. */
export function SignInForm({ to }: { to: string }) {
  const [wrong, setWrong] = useState<string | null>(null);
  const [busy, setBusy] = useState(false);
  const signIn = async (form: FormData): Promise<void> => {
    setBusy(true);
    setWrong(null);
    try {
      const response = await fetch("/api/auth/sign-in/email", {
        method: "POST",
        headers: { "content-type": "application/json" },
        body: JSON.stringify({ email: form.get("email"), password: form.get("password") }),
      });
      if (response.ok) window.location.assign(to);
      else if (response.status === 429) setWrong("Too many attempts. Wait 15 minutes, or ask an administrator.");
      else if (response.status >= 500) setWrong("No connection to the server. Try again in a moment.");
      else setWrong("Mail address or password is wrong.");
    } catch {
      setWrong("No connection to the server. Try again in a moment.");
    } finally {
      setBusy(false);
    }
  };
  return (
    <main className="sign-in">
      <div className="side">
        <div className="emblem mb-3">
          <Loop size={64} />
        </div>
        <p className="mb-0" style={{ fontSize: "1.25rem", maxWidth: 420 }}>
          Documents, clipped to the records they belong to.
        </p>
      </div>
      <div className="d-grid" style={{ placeItems: "center" }}>
        <Form
          style={{ width: "min(340px, 88vw)" }}
          onSubmit={(e) => {
            e.preventDefault();
            void signIn(new FormData(e.currentTarget));
          }}
        >
          <h1 className="mb-4">Amber Clip</h1>
          <Form.Group className="mb-3" controlId="email">
            <Form.Label>Mail address</Form.Label>
            <Form.Control name="email" type="email" autoComplete="username" autoFocus required />
          </Form.Group>
          <Form.Group className="mb-3" controlId="password">
            <Form.Label>Password</Form.Label>
            <Form.Control name="password" type="password" autoComplete="current-password" required />
          </Form.Group>
          {wrong ? (
            <p className="problem" role="alert">
              {wrong}
            </p>
          ) : null}
          <Button type="submit" className="w-100" disabled={busy}>
            {busy ? "Signing in …" : "Sign in"}
          </Button>
        </Form>
      </div>
    </main>
  );
}
