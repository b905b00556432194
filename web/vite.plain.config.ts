import { defineConfig } from "vite";

// The glass, the hand camera and the test of functions: one plain script each, for browsers eight years old.
export default defineConfig(({ mode }) => ({
  base: "/static/",
  publicDir: false,
  build: {
    outDir: "dist",
    emptyOutDir: false,
    target: "es2017",
    minify: "terser",
    lib: {
      entry: `src/${mode}/main.ts`,
      formats: ["iife"],
      name: mode,
      fileName: () => `${mode}.js`,
    },
  },
}));
