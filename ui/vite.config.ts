import { readFileSync } from "node:fs";
import tailwindcss from "@tailwindcss/vite";
import react from "@vitejs/plugin-react";
import { defineConfig, type Plugin } from "vite";

/** Lists the packages whose code, styles or fonts are in the build, for tools/third_party.py. */
function bundledPackages(): Plugin {
  const packageIn = /.*\/node_modules\/((?:@[^/]+\/)?[^/]+)\//;
  return {
    name: "bundled-packages",
    generateBundle(_, bundle) {
      const modules = Object.values(bundle).flatMap((chunk) =>
        chunk.type === "chunk" ? Object.keys(chunk.modules) : [],
      );
      const packages = modules.map((id) => packageIn.exec(id.replaceAll("\\", "/"))?.[1]);
      // Tailwind reads the style sheet itself, so that the bundle does not show what it imports.
      const styles = readFileSync("src/styles.css", "utf8");
      const styled = [...styles.matchAll(/^@(?:import|plugin) "((?:@[^/"]+\/)?[^/"]+)/gm)].map((match) => match[1]);
      const names = [...new Set([...packages, ...styled])].filter((name) => name && !name.startsWith("."));
      const source = JSON.stringify(names.sort());
      this.emitFile({ type: "asset", fileName: "packages.json", source });
    },
  };
}

export default defineConfig({
  plugins: [react(), tailwindcss(), bundledPackages()],
  build: {
    outDir: "../src/vexel/web/dist",
    emptyOutDir: true,
    // All browsers of the last years preload modules by themselves.
    modulePreload: { polyfill: false },
    // Inlined data: addresses would need a weaker Content-Security-Policy.
    assetsInlineLimit: 0,
    // The first load names all chunks, and digests cannot be compressed.
    rolldownOptions: { output: { chunkFileNames: "assets/[name]-[hash:7].js" } },
  },
});
