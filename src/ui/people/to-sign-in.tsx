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
      {/* oxlint-disable-next-line nextjs/no-html-link-for-pages -- a whole load: nothing is kept of whoever was signed in */}
      <a href="/sign-in">Sign in</a>
    </main>
  );
}
