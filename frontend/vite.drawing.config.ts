/** The drawing as one plain script: no page, no React, no component library. */
import { defineConfig } from "vite";

export default defineConfig({
  publicDir: false,
  build: {
    outDir: "../src/zembra/drawing",
    emptyOutDir: true,
    lib: { entry: "src/figure/bundle.ts", formats: ["iife"], name: "zembra", fileName: () => "drawing.js" },
  },
});
