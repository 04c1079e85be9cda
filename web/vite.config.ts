import react from "@vitejs/plugin-react";
import { defineConfig } from "vite";

export default defineConfig({
  plugins: [react()],
  build: { outDir: "dist", assetsDir: "assets", chunkSizeWarningLimit: 1200 },
});
