import { defineConfig } from "@playwright/test";

// ./test starts the server and the Backlot that these use, and says where they are.
export default defineConfig({
  testDir: "tests/browser",
  outputDir: "artifacts/browser",
  timeout: 90_000,
  // A machine that is busy with other things may need a second try; a test that holds only then is counted, and named in the report.
  retries: 1,
  expect: { timeout: 15_000 },
  // One for each server that ./test started.
  workers: Number(process.env.STACKS ?? 1),
  reporter: [["line"], ["json", { outputFile: "artifacts/browser.json" }]],
  use: {
    baseURL: process.env[`LITFUSE_URL_${process.env.TEST_PARALLEL_INDEX}`] ?? process.env.LITFUSE_URL ?? "http://127.0.0.1:5080",
    viewport: { width: 1280, height: 800 },
    reducedMotion: "reduce",
    screenshot: "only-on-failure",
    launchOptions: {
      // ./test says which there is.
      executablePath: process.env.CHROMIUM ?? "/usr/bin/chromium",
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
} as Parameters<typeof defineConfig>[0]);
