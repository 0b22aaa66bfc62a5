import { defineConfig } from "@playwright/test";

/** Against a running Presa with the demo loaded, at PRESA_URL; bin/test starts one. */
export default defineConfig({
  testDir: "e2e",
  timeout: 240_000,
  expect: { timeout: 30_000 },
  workers: 1,
  retries: 0,
  outputDir: process.env["PLAYWRIGHT_OUTPUT"] ?? "/tmp/presa-playwright",
  use: {
    baseURL: process.env["PRESA_URL"] ?? "http://127.0.0.1:4310",
    actionTimeout: 45_000,
    viewport: { width: 1280, height: 800 },
    timezoneId: "America/Los_Angeles",
    locale: "en-GB",
    launchOptions: {
      executablePath: "/usr/bin/chromium",
      args: [
        "--no-sandbox",
        "--disable-gpu",
        "--disable-quic",
        "--no-first-run",
        "--disable-background-networking",
        "--disable-component-update",
        "--disable-sync",
      ],
    },
  },
});
