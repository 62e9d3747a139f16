import type { ReactNode } from "react";
import { OnlyWith } from "#ui/people/only-with.tsx";

export default function Layout({ children }: { children: ReactNode }) {
  return <OnlyWith right="manage">{children}</OnlyWith>;
}
