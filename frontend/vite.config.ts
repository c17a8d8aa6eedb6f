import react from "@vitejs/plugin-react";
import { defineConfig } from "vite";

export default defineConfig({
  plugins: [react()],
  build: {
    outDir: "../src/zembra/web",
    emptyOutDir: true,
    chunkSizeWarningLimit: 2500,
  },
  server: {
    proxy: {
      // the server takes changes from its own pages only
      "/api": {
        target: "http://127.0.0.1:8420",
        changeOrigin: true,
        headers: { origin: "http://127.0.0.1:8420" },
      },
    },
  },
});
