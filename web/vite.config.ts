import { fileURLToPath } from "node:url";
import tailwindcss from "@tailwindcss/vite";
import react from "@vitejs/plugin-react";
import { defineConfig } from "vite";

export default defineConfig({
  base: "/static/",
  plugins: [react(), tailwindcss()],
  resolve: { alias: { "~": fileURLToPath(new URL("./src", import.meta.url)) } },
  build: { assetsInlineLimit: 0, target: "es2022", chunkSizeWarningLimit: 700 },
  // The built files are served by Django in every mode but unit tests.
  test: {
    testTimeout: 60_000,
    projects: [
      {
        extends: true,
        test: { name: "figures", environment: "node", include: ["src/**/*.math.test.ts"], isolate: false },
      },
      {
        extends: true,
        test: {
          name: "pages",
          environment: "jsdom",
          include: ["src/**/*.test.{ts,tsx}"],
          exclude: ["src/**/*.math.test.ts"],
          setupFiles: ["src/testing/setup.ts"],
          isolate: false,
        },
      },
    ],
  },
} as Parameters<typeof defineConfig>[0]);
