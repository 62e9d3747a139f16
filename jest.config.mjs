const shared = { rootDir: ".", modulePathIgnorePatterns: ["<rootDir>/.next", "<rootDir>/.demo"], testEnvironment: "node" };

/**
 * Tests run in bare Node, in one process that loads each module once for all files: most of what they took was the loading of modules
 * anew for each. Those of screens have a browser's page beside them (jest.browser.mjs). What holds something in memory lets go of it where a test
 * changes databases (test-world.ts).
 */
const bare = { ...shared, runner: "jest-light-runner", setupFilesAfterEnv: ["<rootDir>/jest.limits.mjs"] };

const config = {
  projects: [
    { ...bare, displayName: "unit", testMatch: ["**/*.test.ts"], testPathIgnorePatterns: ["\\.db\\.test\\.ts$", "/node_modules/"] },
    { ...bare, displayName: "db", testMatch: ["**/*.db.test.ts"], testPathIgnorePatterns: ["/node_modules/"] },
    {
      ...bare,
      displayName: "screens",
      testMatch: ["**/*.test.tsx"],
      testPathIgnorePatterns: ["/node_modules/"],
      setupFiles: ["<rootDir>/jest.browser.mjs"],
    },
  ],
  maxWorkers: 2,
  testTimeout: 60000,
};

export default config;
