import tailwindcss from "@tailwindcss/vite";
import react from "@vitejs/plugin-react";
import { defineConfig } from "vite";

// Two pages, one build. The service puts a nonce in place of the marker for each answer.
export default defineConfig(({ mode }) => ({
  appType: "mpa",
  plugins: [react(), tailwindcss()],
  html: { cspNonce: mode === "production" ? "__CSP_NONCE__" : undefined },
  build: {
    outDir: "target/console",
    emptyOutDir: true,
    assetsInlineLimit: 0,
    modulePreload: { polyfill: false },
    rollupOptions: { input: { console: "console/index.html", portal: "portal/index.html" } },
  },
  server: { proxy: { "/api": "http://localhost:8080" } },
}));
