import next from "eslint-config-next";
import typescript from "eslint-config-next/typescript";

const config = [
  { ignores: ["node_modules/", ".next/", ".demo*/", "next-env.d.ts", "test-results/", ".dependency-cruiser.cjs"] },
  ...next,
  ...typescript,
  {
    rules: {
      "@typescript-eslint/no-unused-vars": ["error", { argsIgnorePattern: "^_", varsIgnorePattern: "^_" }],
      "@typescript-eslint/no-explicit-any": "error",
      "no-control-regex": "error",
      eqeqeq: ["error", "always", { null: "ignore" }],
      // Pictures of pages are sized by the server and cached by hash; Next's own picture service would only stand in between.
      "@next/next/no-img-element": "off",
    },
  },
];

export default config;
