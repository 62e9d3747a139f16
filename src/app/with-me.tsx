import { cookies, headers } from "next/headers";
import type { ReactNode } from "react";
import { loadActor } from "#server/people/load-actor.ts";
import { loadMe } from "#server/people/load-me.ts";
import { MeProvider } from "#ui/people/me-context.tsx";
import { ToSignIn } from "#ui/people/to-sign-in.tsx";

/** Knows who works here, and sends those who are not signed in to the door. */
export async function WithMe({ children }: { children: ReactNode }) {
  const actor = await loadActor(await headers());
  if (!actor) return <ToSignIn />;
  const me = await loadMe(actor);
  const chosen = (await cookies()).get("amber-company")?.value;
  const start = me.companies.find((c) => c.code === chosen)?.code ?? (me.companies.length === 1 ? me.companies[0]?.code : undefined);
  return (
    <MeProvider me={me} startCompany={start}>
      {children}
    </MeProvider>
  );
}
