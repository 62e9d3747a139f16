"use client";
import { useMutation } from "@tanstack/react-query";
import { useState } from "react";
import { Button, Form } from "react-bootstrap";
import type { ArrivalAnswer } from "#server/arrivals/list-arrivals.ts";
import { apiSend, wordsOf } from "../kit/api.ts";

/** Asks for the password of a locked PDF and opens it. The password is sent once and kept nowhere. */
export function UnlockForm({ arrival, onOpened }: { arrival: ArrivalAnswer; onOpened: (id: string) => void }) {
  const [password, setPassword] = useState("");
  const open = useMutation({
    mutationFn: () => apiSend<{ arrival: string }>("POST", `/arrivals/${arrival.id}/unlock`, { password }),
    onSuccess: (made) => onOpened(made.arrival),
  });
  return (
    <Form
      className="mt-2"
      onSubmit={(e) => {
        e.preventDefault();
        if (password !== "") open.mutate();
      }}
    >
      <div className="d-flex gap-2">
        <Form.Control
          type="password"
          size="sm"
          autoComplete="off"
          aria-label="Password of the file"
          placeholder="Password of the file"
          value={password}
          isInvalid={open.isError}
          onChange={(e) => setPassword(e.target.value)}
        />
        <Button type="submit" size="sm" variant="plain" className="text-nowrap" disabled={password === "" || open.isPending}>
          {open.isPending ? "Opening …" : "Open file"}
        </Button>
      </div>
      {open.isError ? (
        <div className="problem mt-1" role="alert">
          {wordsOf(open.error).title}. {wordsOf(open.error).next}
        </div>
      ) : null}
    </Form>
  );
}
