import react from "@vitejs/plugin-react";
import { defineConfig } from "vitest/config";

export default defineConfig({
  base: "/static/",
  plugins: [react()],
  build: { outDir: "dist", emptyOutDir: true, target: "es2022", chunkSizeWarningLimit: 900 },
  html: { cspNonce: "__CSP_NONCE__" },
  test: { environment: "jsdom", include: ["src/**/*.test.{ts,tsx}"], globals: false },
});
