import type { NextConfig } from "next";

const config: NextConfig = {
  poweredByHeader: false,
  reactStrictMode: true,
  // Half of what building takes otherwise: what runs here is not sent anywhere, and reads better in a log as it was written; a start builds once, so nothing is
  // kept for a next time; and nothing reads maps.
  experimental: {
    turbopackMinify: { server: false, client: true },
    turbopackSourceMaps: false,
    turbopackInputSourceMaps: false,
    turbopackFileSystemCacheForBuild: false,
  },
  // Types are checked by bin/test for the whole project; checking them again here only makes the first start slower.
  typescript: { ignoreBuildErrors: true },
  // These load files of their own at run time or are native; bundling them breaks them.
  serverExternalPackages: [
    "sharp",
    "pg",
    "graphile-worker",
    "mammoth",
    "exceljs",
    "file-type",
    "postal-mime",
    "html-to-text",
    "busboy",
    "@kenjiuno/msgreader",
    "bwip-js",
  ],
  sassOptions: { quietDeps: true, silenceDeprecations: ["import", "global-builtin", "color-functions", "if-function"] },
  async headers() {
    // Our own pages run our own scripts only; what is served from the API has a stricter policy of its own.
    const policy =
      "default-src 'self'; script-src 'self' 'unsafe-inline'; style-src 'self' 'unsafe-inline'; img-src 'self' data: blob:; font-src 'self'; connect-src 'self'; object-src 'none'; base-uri 'self'; form-action 'self'; frame-ancestors 'none'";
    return [
      {
        source: "/((?!api/).*)",
        headers: [
          { key: "Content-Security-Policy", value: policy },
          { key: "X-Content-Type-Options", value: "nosniff" },
          { key: "Referrer-Policy", value: "same-origin" },
        ],
      },
    ];
  },
};

export default config;
