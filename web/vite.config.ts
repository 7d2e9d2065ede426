import tailwindcss from "@tailwindcss/vite";
import react from "@vitejs/plugin-react";
import { defineConfig } from "vitest/config";

// Vite runs this in Node.
declare const process: { env: Record<string, string | undefined> };

export default defineConfig({
  plugins: [react(), tailwindcss()],
  // The server puts each page's own nonce in its place.
  html: { cspNonce: "__NONCE__" },
  server: {
    host: "127.0.0.1",
    proxy: process.env.ZWEIBLICK_API ? { "/api": process.env.ZWEIBLICK_API } : {},
  },
  build: { chunkSizeWarningLimit: 900, assetsInlineLimit: 0 },
  test: { environment: "jsdom", globals: true, setupFiles: ["src/setup.test-env.ts"] },
});
