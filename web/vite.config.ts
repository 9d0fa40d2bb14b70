import { createHash } from "node:crypto";
import { readFileSync } from "node:fs";
import tailwindcss from "@tailwindcss/vite";
import react from "@vitejs/plugin-react";
import { compression } from "vite-plugin-compression2";
import { VitePWA } from "vite-plugin-pwa";
import { defineConfig } from "vitest/config";

// What the page keeps on a device has the shape of the contract: another contract, and it is fetched anew.
const contract = createHash("sha256").update(readFileSync("../api/openapi.yaml")).digest("hex").slice(0, 12);

export default defineConfig({
  // Compressed once, here, and not with each request.
  plugins: [
    react(),
    tailwindcss(),
    compression({ algorithms: ["gzip", "brotliCompress"], include: /\.(js|css|svg|html)$/ }),
    VitePWA({
      registerType: "prompt",
      injectRegister: false, // the shop's pages install themselves; a customer's phone keeps nothing
      manifest: {
        id: "/",
        name: "Earnest Pony",
        short_name: "Pony",
        description: "The workshop's bikes, jobs and readings, at the stand",
        start_url: "/today",
        scope: "/",
        display: "standalone",
        theme_color: "#261C17",
        background_color: "#261C17",
        icons: [
          { src: "/icon.svg", sizes: "any", type: "image/svg+xml" },
          { src: "/icon-192.png", sizes: "192x192", type: "image/png" },
          { src: "/icon-512.png", sizes: "512x512", type: "image/png", purpose: "any" },
          { src: "/icon-512.png", sizes: "512x512", type: "image/png", purpose: "maskable" },
        ],
      },
      workbox: {
        globPatterns: ["**/*.{js,css,html,svg,png,woff2}"],
        navigateFallback: "/index.html",
        // What is the server's to answer, and what a customer opens.
        navigateFallbackDenylist: [
          /^\/api\//,
          /^\/o\//,
          /^\/calendar\//,
          /^\/schemas\//,
          /^\/(healthz|readyz|robots\.txt)$/,
        ],
        cleanupOutdatedCaches: true,
      },
    }),
  ],
  define: { __CONTRACT__: JSON.stringify(contract) },
  build: {
    outDir: "dist",
    emptyOutDir: true,
    assetsInlineLimit: 0,
    rolldownOptions: {
      output: {
        // What others wrote changes seldom: it is fetched anew only when it does.
        codeSplitting: {
          groups: [
            { name: "react", test: /node_modules\/(react|react-dom|scheduler)\// },
            { name: "query", test: /node_modules\/(@tanstack|openapi-fetch)\// },
            { name: "date", test: /node_modules\/@internationalized\// },
            { name: "router", test: /node_modules\/react-router\// },
          ],
        },
      },
    },
  },
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
