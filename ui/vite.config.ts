import tailwindcss from "@tailwindcss/vite";
import react from "@vitejs/plugin-react";
import { defineConfig } from "vite";

export default defineConfig({
  plugins: [react(), tailwindcss()],
  build: {
    outDir: "../src/vexel/web/dist",
    emptyOutDir: true,
    // Inlined data: addresses would need a weaker Content-Security-Policy.
    assetsInlineLimit: 0,
  },
});
