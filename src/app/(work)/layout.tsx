import type { ReactNode } from "react";
import { Frame } from "#ui/frame/frame.tsx";
import { WithMe } from "../with-me.tsx";

export default function WorkLayout({ children }: { children: ReactNode }) {
  return (
    <WithMe>
      <Frame>{children}</Frame>
    </WithMe>
  );
}
