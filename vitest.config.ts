import { defineConfig } from "vitest/config";

export default defineConfig({
  resolve: { alias: { "@": import.meta.dirname } },
  test: {
    testTimeout: 30_000,
    hookTimeout: 60_000,
    projects: [
      {
        extends: true,
        test: {
          name: "unit",
          include: [
            "core/**/*.test.ts",
            "contracts/**/*.test.ts",
            "gateway/**/*.test.ts",
            "cli/**/*.test.ts",
            "components/**/*.test.ts",
            "testing/**/*.test.ts",
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
      { extends: true, test: { name: "server", include: ["server/**/*.test.ts"], fileParallelism: false } },
    ],
  },
});
