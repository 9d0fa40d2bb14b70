import tailwindcss from "@tailwindcss/vite";
import react from "@vitejs/plugin-react";
import { defineConfig } from "vitest/config";

export default defineConfig({
  plugins: [react(), tailwindcss()],
  // One chunk: it is fetched once over the shop's own network, and then a tablet that loses it has every place.
  build: { outDir: "dist", emptyOutDir: true, assetsInlineLimit: 0, chunkSizeWarningLimit: 900 },
  server: { proxy: { "/api": { target: process.env.PONY ?? "http://127.0.0.1:8321" } } },
  // One environment for all files: a new one for each takes twice as long as the tests themselves. What a test stubs is put
  // back after it.
  test: {
    environment: "happy-dom",
    setupFiles: ["src/test-setup.ts"],
    testTimeout: 30_000,
    isolate: false,
    unstubGlobals: true,
    restoreMocks: true,
  },
});
