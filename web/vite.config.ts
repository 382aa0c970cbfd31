import react from "@vitejs/plugin-react";
import { defineConfig } from "vitest/config";

export default defineConfig({
  plugins: [react()],
  build: {
    outDir: "dist",
    target: "es2022",
    chunkSizeWarningLimit: 900,
    // A client's page is a bundle of its own: light on a phone, and without anything of the studio.
    rollupOptions: { input: ["index.html", "showing.html"] },
  },
  server: { host: "127.0.0.1", proxy: { "/api": "http://127.0.0.1:8000" } },
  test: { environment: "jsdom" },
});
