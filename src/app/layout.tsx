import "@fontsource-variable/atkinson-hyperlegible-next";
import "@fontsource-variable/atkinson-hyperlegible-mono";
import "#ui/theme/theme.scss";
import type { Metadata, Viewport } from "next";
import { cookies } from "next/headers";
import type { ReactNode } from "react";
import { Providers } from "#ui/frame/providers.tsx";

export const metadata: Metadata = { title: "Amber Clip", description: "Documents, clipped to the records they belong to." };
export const viewport: Viewport = { width: "device-width", initialScale: 1 };

export default async function RootLayout({ children }: { children: ReactNode }) {
  const theme = (await cookies()).get("amber-theme")?.value === "dark" ? "dark" : "light";
  return (
    <html lang="en-GB" data-bs-theme={theme} suppressHydrationWarning>
      <head>
        {/* Before the first paint, so that nothing flashes in the other set. */}
        {/* oxlint-disable-next-line nextjs/no-sync-scripts -- it has to run before anything is drawn */}
        <script src="/theme.js" />
      </head>
      <body>
        <Providers>{children}</Providers>
      </body>
    </html>
  );
}
