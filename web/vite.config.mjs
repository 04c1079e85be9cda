import { readdirSync, readFileSync, writeFileSync } from "node:fs";
import { join } from "node:path";
import { brotliCompressSync, constants, gzipSync } from "node:zlib";
import react from "@vitejs/plugin-react";
import { defineConfig } from "vite";

/** Beside each asset its compressed forms, which the server hands out to whoever takes them. */
function compressed() {
  return {
    name: "compressed",
    apply: "build",
    closeBundle() {
      for (const entry of readdirSync("dist", { recursive: true, withFileTypes: true })) {
        if (!entry.isFile() || !/\.(js|css|svg|html)$/.test(entry.name)) continue;
        const path = join(entry.parentPath, entry.name);
        const data = readFileSync(path);
        writeFileSync(`${path}.gz`, gzipSync(data, { level: 9 }));
        const params = { [constants.BROTLI_PARAM_QUALITY]: 9 };
        writeFileSync(`${path}.br`, brotliCompressSync(data, { params }));
      }
    },
  };
}

export default defineConfig({
  plugins: [react(), compressed()],
  build: { outDir: "dist", assetsDir: "assets", chunkSizeWarningLimit: 1200 },
});
