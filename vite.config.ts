import { resolve } from "node:path";
import react from "@vitejs/plugin-react";
import { defineConfig } from "vitest/config";

const server = process.env.LITFUSE_URL ?? "http://127.0.0.1:5080";
const here = import.meta.dirname;

export default defineConfig({
  root: resolve(here, "web"),
  plugins: [react()],
  resolve: { alias: { "@": resolve(here, "web/src") } },
  build: { outDir: resolve(here, "artifacts/web"), emptyOutDir: true, assetsInlineLimit: 0, chunkSizeWarningLimit: 900 },
  server: { proxy: { "/api": server, "/live": { target: server, ws: true }, "/in": server }, fs: { allow: [here] } },
  test: {
    root: here,
    environment: "jsdom",
    setupFiles: ["tests/web/setup.ts"],
    include: ["tests/web/**/*.test.{ts,tsx}"],
    pool: "threads",
    // Files share a worker and what it has loaded, which takes a third of the time: each puts back what it changes.
    isolate: false,
    // A machine that is busy with other things takes its time; what is asked is whether, not how soon.
    testTimeout: 20_000,
  },
});
