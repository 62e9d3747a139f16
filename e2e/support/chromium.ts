import { existsSync } from "node:fs";

/** Debian's headless Chromium; where only the whole one is installed, that one, which takes about half as long again for everything. */
export const chromiumPath = ["/usr/bin/chromium-headless-shell", "/usr/bin/chromium"].find((file) => existsSync(file)) ?? "chromium";

/** How Debian's Chromium runs without a monitor, without a network and as root. */
export const chromiumFlags = [
  "--no-sandbox",
  "--disable-gpu",
  "--disable-quic",
  "--no-first-run",
  "--disable-background-networking",
  "--disable-component-update",
  "--disable-sync",
  "--disable-dev-shm-usage",
] as const;
