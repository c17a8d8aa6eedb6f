import react from "@vitejs/plugin-react";
import { defineConfig } from "vite";

export default defineConfig({
  plugins: [react()],
  build: {
    outDir: "../src/zembra/web",
    emptyOutDir: true,
    chunkSizeWarningLimit: 2500,
  },
  server: { proxy: { "/api": "http://127.0.0.1:8420" } },
});
