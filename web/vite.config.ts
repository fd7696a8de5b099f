import tailwindcss from "@tailwindcss/vite";
import react from "@vitejs/plugin-react";
import { defineConfig } from "vitest/config";

export default defineConfig({
  plugins: [react(), tailwindcss()],
  // Nothing is inlined: the content security policy takes scripts, styles and fonts from files of this server only.
  build: { assetsInlineLimit: 0, modulePreload: { polyfill: false }, chunkSizeWarningLimit: 900 },
  test: {
    pool: "threads",
    projects: [
      // Pure functions keep nothing that another file's tests could meet.
      { extends: true, test: { name: "functions", include: ["src/**/*.test.ts"], isolate: false } },
      {
        extends: true,
        test: {
          name: "screens",
          include: ["src/**/*.test.tsx"],
          environment: "jsdom",
          setupFiles: ["src/testing/setup.ts"],
          isolate: false,
        },
      },
    ],
  },
});
