import react from "@vitejs/plugin-react";
import { defineConfig } from "vitest/config";

export default defineConfig({
  plugins: [react()],
  build: { target: "es2022", chunkSizeWarningLimit: 1200 },
  test: { include: ["tests/**/*.test.ts"] },
  server: { proxy: { "/api": "http://127.0.0.1:8000", "/live": { target: "ws://127.0.0.1:8000", ws: true } } },
});
