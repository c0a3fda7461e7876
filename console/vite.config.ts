import react from "@vitejs/plugin-react";
import { defineConfig } from "vitest/config";

export default defineConfig({
  plugins: [react()],
  build: { chunkSizeWarningLimit: 900 },
  // Help is made from the docs.
  server: { fs: { allow: [".."] }, proxy: { "/api": "http://127.0.0.1:8480", "/health": "http://127.0.0.1:8480" } },
  // Machines are shared: the first component that is drawn can take seconds.
  test: { environment: "node", testTimeout: 30_000, include: ["src/**/*.test.{ts,tsx}"] },
});
