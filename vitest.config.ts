import { defineConfig } from "vitest/config";

export default defineConfig({
  resolve: { alias: { "@": import.meta.dirname } },
  test: {
    testTimeout: 60_000,
    hookTimeout: 120_000,
    projects: [
      {
        extends: true,
        test: {
          name: "unit",
          include: [
            "core/**/*.test.ts",
            "contracts/**/*.test.ts",
            "messages/**/*.test.ts",
            "gateway/**/*.test.ts",
            "cli/**/*.test.ts",
            "components/**/*.test.ts",
            "testing/**/*.test.ts",
            "paper/**/*.test.ts",
          ],
        },
      },
      {
        extends: true,
        test: {
          name: "components",
          include: ["components/**/*.test.tsx"],
          environment: "jsdom",
          setupFiles: ["testing/component-setup.ts"],
        },
      },
      {
        extends: true,
        test: {
          name: "server",
          include: ["server/**/*.test.ts"],
          fileParallelism: false,
          // A machine that is busy with others begins its threads late.
          env: { PRESA_COMPUTE_S: "90" },
          testTimeout: 120_000,
          hookTimeout: 180_000,
        },
      },
    ],
  },
});
