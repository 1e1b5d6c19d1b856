import { createHash } from "node:crypto";
import { readFileSync } from "node:fs";
import { fileURLToPath } from "node:url";
import tailwindcss from "@tailwindcss/vite";
import react from "@vitejs/plugin-react";
import { build, defineConfig, type Plugin } from "vite";

const BASE = "/static/";

/** Builds the service worker after the page, by itself, and tells it the page's files: each is named with its digest. */
function serviceWorker(): Plugin {
  let files: string[] = [];
  return {
    name: "service-worker",
    apply: "build",
    generateBundle(_, bundle) {
      files = Object.keys(bundle).filter((name) => name.startsWith("assets/"));
    },
    async closeBundle() {
      const revision = createHash("sha256").update(readFileSync("public/theme.js")).digest("hex").slice(0, 8);
      const theme = { url: `${BASE}theme.js`, revision };
      await build({
        configFile: false,
        logLevel: "warn",
        publicDir: false,
        define: {
          __BUILT_FILES__: JSON.stringify([
            ...files.map((name) => ({ url: `${BASE}${name}`, revision: null })),
            theme,
          ]),
          "process.env.NODE_ENV": JSON.stringify("production"),
        },
        build: {
          emptyOutDir: false,
          target: "es2022",
          // It stands at the root, where it may answer for every page.
          lib: { entry: "src/offline/sw.ts", formats: ["iife"], name: "worker", fileName: () => "sw.js" },
        },
      });
    },
  };
}

export default defineConfig({
  base: BASE,
  plugins: [react(), tailwindcss(), serviceWorker()],
  resolve: { alias: { "~": fileURLToPath(new URL("./src", import.meta.url)) } },
  build: {
    assetsInlineLimit: 0,
    target: "es2022",
    chunkSizeWarningLimit: 700,
  },
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
