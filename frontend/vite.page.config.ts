/** What a picture on a page of its own runs: one plain script beside the drawing. */
import { defineConfig } from "vite";

export default defineConfig({
  publicDir: false,
  build: {
    outDir: "../src/zembra/drawing",
    emptyOutDir: false,
    lib: { entry: "src/page/page.ts", formats: ["iife"], name: "page", fileName: () => "page.js" },
  },
});
