/** The floors: imports go downwards only. app, worker → server, ui → core; ui takes only types from server. */
module.exports = {
  forbidden: [
    {
      name: "core-imports-nothing-above",
      severity: "error",
      from: { path: "^src/core" },
      to: { path: "^src/(server|ui|app|worker)|^(ops|scenario|bench|e2e|standins)" },
    },
    {
      name: "core-is-pure",
      severity: "error",
      from: { path: "^src/core", pathNot: "\\.test\\.ts$" },
      to: { dependencyTypes: ["core", "npm", "npm-dev"], pathNot: "node_modules/zod" },
    },
    {
      name: "server-imports-no-doors",
      severity: "error",
      from: { path: "^src/server", pathNot: "\\.test\\.ts$" },
      to: { path: "^src/(ui|app|worker)|^(ops|scenario|bench|e2e|standins)" },
    },
    {
      name: "ui-takes-only-types-from-server",
      severity: "error",
      from: { path: "^src/ui", pathNot: "\\.test\\.tsx?$" },
      to: { path: "^src/(server|app|worker)", dependencyTypesNot: ["type-only"] },
    },
    { name: "doors-do-not-import-doors", severity: "error", from: { path: "^src/app" }, to: { path: "^src/worker" } },
    {
      name: "src-does-not-know-scenario",
      severity: "error",
      from: { path: "^src", pathNot: "\\.test\\.tsx?$" },
      to: { path: "^(ops|scenario|bench|e2e|standins)" },
    },
    { name: "no-rings", severity: "error", from: {}, to: { circular: true, viaOnly: { dependencyTypesNot: ["type-only"] } } },
  ],
  options: {
    doNotFollow: { path: "node_modules" },
    exclude: { path: "\\.next" },
    tsPreCompilationDeps: true,
    tsConfig: { fileName: "tsconfig.json" },
    enhancedResolveOptions: {
      exportsFields: ["exports"],
      conditionNames: ["import", "require", "node", "default", "types"],
      extensions: [".ts", ".tsx", ".js", ".mjs"],
    },
  },
};
