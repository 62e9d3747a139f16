const shared = { rootDir: ".", modulePathIgnorePatterns: ["<rootDir>/.next", "<rootDir>/.demo"], testEnvironment: "node" };

/**
 * Tests without a browser run in bare Node, in one process that loads each module once for all files: most of what they took was the loading of modules
 * anew for each. What holds something in memory lets go of it where a test changes databases (test-world.ts).
 */
const bare = { ...shared, runner: "jest-light-runner", setupFilesAfterEnv: ["<rootDir>/jest.limits.mjs"] };

const config = {
  projects: [
    { ...bare, displayName: "unit", testMatch: ["**/*.test.ts"], testPathIgnorePatterns: ["\\.db\\.test\\.ts$", "/node_modules/"] },
    { ...bare, displayName: "db", testMatch: ["**/*.db.test.ts"], testPathIgnorePatterns: ["/node_modules/"] },
    {
      ...shared,
      displayName: "screens",
      testMatch: ["**/*.test.tsx"],
      testPathIgnorePatterns: ["/node_modules/"],
      testEnvironment: "jsdom",
      extensionsToTreatAsEsm: [".ts", ".tsx"],
      transform: {
        "^.+\\.tsx?$": [
          "@swc/jest",
          {
            jsc: { parser: { syntax: "typescript", tsx: true }, target: "es2022", transform: { react: { runtime: "automatic" } } },
            module: { type: "es6" },
          },
        ],
      },
      transformIgnorePatterns: ["/node_modules/"],
      moduleNameMapper: { "^#(core|server|ui|worker)/(.*)$": "<rootDir>/src/$1/$2", "^#(scenario|ops)/(.*)$": "<rootDir>/$1/$2" },
      setupFiles: ["<rootDir>/jest.setup.mjs"],
    },
  ],
  maxWorkers: 2,
  // Of the screens, every file loads its modules anew and what it held is not let go of: a process that grew is replaced.
  workerIdleMemoryLimit: "600MB",
  testTimeout: 60000,
};

export default config;
