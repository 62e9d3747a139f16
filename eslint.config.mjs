import next from "eslint-config-next";
import typescript from "eslint-config-next/typescript";

/** Where there is interface: only there is looked for what React and Next ask for, which takes more than all else together. */
const screens = ["src/ui/**/*.{ts,tsx}", "src/app/**/*.{ts,tsx}"];

const config = [
  { ignores: ["node_modules/", ".next/", ".demo*/", "next-env.d.ts", "test-results/", ".dependency-cruiser.cjs"] },
  ...next.map((part) => (part.name === "next" ? { ...part, files: screens, ignores: ["**/*.test.*"] } : part)),
  ...typescript,
  {
    rules: {
      "@typescript-eslint/no-unused-vars": ["error", { argsIgnorePattern: "^_", varsIgnorePattern: "^_" }],
      "@typescript-eslint/no-explicit-any": "error",
      "no-control-regex": "error",
      eqeqeq: ["error", "always", { null: "ignore" }],
    },
  },
  {
    files: screens,
    ignores: ["**/*.test.*"],
    rules: {
      // Pictures of pages are sized by the server and cached by hash; Next's own picture service would only stand in between.
      "@next/next/no-img-element": "off",
    },
  },
];

export default config;
