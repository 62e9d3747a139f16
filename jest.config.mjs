const shared = {
  rootDir: ".",
  extensionsToTreatAsEsm: [".ts", ".tsx"],
  transform: {
    "^.+\\.tsx?$": [
      "<rootDir>/jest.transform.mjs",
      {
        jsc: { parser: { syntax: "typescript", tsx: true }, target: "es2022", transform: { react: { runtime: "automatic" } } },
        module: { type: "es6" },
      },
    ],
    // A quarter of what the database tests compute was its looking up of Object.
    "/node_modules/drizzle-orm/.+\\.js$": ["<rootDir>/jest.transform.mjs", { isOnlyScoped: true }],
  },
  transformIgnorePatterns: ["/node_modules/(?!drizzle-orm/)"],
  moduleNameMapper: { "^#(core|server|ui|worker)/(.*)$": "<rootDir>/src/$1/$2", "^#(scenario|ops)/(.*)$": "<rootDir>/$1/$2" },
  modulePathIgnorePatterns: ["<rootDir>/.next", "<rootDir>/.demo"],
  testEnvironment: "node",
  setupFiles: ["<rootDir>/jest.setup.mjs"],
};

const config = {
  projects: [
    {
      ...shared,
      displayName: "unit",
      testMatch: ["**/*.test.ts", "**/*.test.tsx"],
      testPathIgnorePatterns: ["\\.db\\.test\\.ts$", "/node_modules/"],
    },
    { ...shared, displayName: "db", testMatch: ["**/*.db.test.ts"], testPathIgnorePatterns: ["/node_modules/"] },
  ],
  maxWorkers: 2,
  // Every file loads its modules anew and what it held is not let go of: a process that grew is replaced, which takes a quarter off the whole.
  workerIdleMemoryLimit: "600MB",
  testTimeout: 60000,
};

export default config;
