import type { ReactNode } from "react";
import { WithMe } from "../with-me.tsx";

/** Windows of their own beside the frame. */
export default function WindowLayout({ children }: { children: ReactNode }) {
  return <WithMe>{children}</WithMe>;
}
