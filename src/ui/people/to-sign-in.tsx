"use client";
import { useEffect } from "react";

/** Leads to the sign-in and says where one wanted to go. Only the browser knows the whole address. */
export function ToSignIn() {
  useEffect(() => {
    const { pathname, search } = window.location;
    window.location.replace(`${window.location.origin}/sign-in?to=${encodeURIComponent(pathname + search)}`);
  }, []);
  return (
    <main className="empty">
      <h1 className="mb-2">Amber Clip</h1>
      <a href="/sign-in">Sign in</a>
    </main>
  );
}
