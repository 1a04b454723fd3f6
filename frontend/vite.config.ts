import tailwindcss from "@tailwindcss/vite";
import react from "@vitejs/plugin-react";
import { defineConfig } from "vitest/config";

const program = "http://127.0.0.1:8090";

export default defineConfig({
  plugins: [react(), tailwindcss()],
  build: {
    outDir: "../src/gentle_ledger/web/client",
    emptyOutDir: true,
    // Fonts and pictures stay files: the program's policy allows no data: addresses.
    assetsInlineLimit: 0,
    chunkSizeWarningLimit: 1200,
  },
  test: { include: ["src/**/*.test.{ts,tsx}"] },
  server: {
    proxy: { "/api": { target: program, changeOrigin: true, headers: { origin: program } } },
  },
});
