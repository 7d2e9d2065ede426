import tailwindcss from "@tailwindcss/vite";
import react from "@vitejs/plugin-react";
import { defineConfig } from "vitest/config";

export default defineConfig({
  plugins: [react(), tailwindcss()],
  // The server puts each page's own nonce in its place.
  html: { cspNonce: "__NONCE__" },
  build: { chunkSizeWarningLimit: 900, assetsInlineLimit: 0 },
  test: { environment: "jsdom", globals: true, setupFiles: ["src/setup.test-env.ts"] },
});
