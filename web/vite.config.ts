import tailwindcss from "@tailwindcss/vite";
import react from "@vitejs/plugin-react";
import { compression } from "vite-plugin-compression2";
import { defineConfig } from "vitest/config";

export default defineConfig({
  // Compressed once, here, and not with each request.
  plugins: [
    react(),
    tailwindcss(),
    compression({ algorithms: ["gzip", "brotliCompress"], include: /\.(js|css|svg|html)$/ }),
  ],
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
