/// <reference types="vitest/config" />
import react from "@vitejs/plugin-react";
import { defineConfig } from "vite";

export default defineConfig({
  plugins: [react()],
  worker: { format: "es" },
  build: {
    target: "es2022",
    chunkSizeWarningLimit: 1600,
    rolldownOptions: {
      output: {
        codeSplitting: {
          groups: [
            { name: "three", test: /node_modules[\\/](three|@react-three|three-mesh-bvh)[\\/]/, priority: 20 },
            { name: "antd", test: /node_modules[\\/](antd|@ant-design|@rc-component|rc-[^\\/]+)[\\/]/, priority: 10 },
          ],
        },
      },
    },
  },
  server: { proxy: { "/api": "http://127.0.0.1:8000" } },
  test: {
    environment: "jsdom",
    setupFiles: ["src/test/setup.ts"],
    include: ["src/**/*.test.{ts,tsx}"],
    css: false,
    // One page for all files: a page of its own for each costs two thirds of the time. What a test puts on the globals is taken back after it.
    pool: "threads",
    isolate: false,
    // By default one processor is left alone, of two that is half.
    maxWorkers: 2,
    unstubGlobals: true,
    restoreMocks: true,
    // A loaded machine is slow, not wrong.
    testTimeout: 120_000,
  },
});
