import { defineConfig } from "vite";

// The glass and the hand camera: one plain script each, for browsers eight years old.
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
      name: mode === "glass" ? "glass" : "snap",
      fileName: () => `${mode}.js`,
    },
  },
}));
