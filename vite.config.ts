import { reactRouter } from "@react-router/dev/vite";
import tailwindcss from "@tailwindcss/vite";
import { defineConfig } from "vite";
import { engineVersion } from "./bin/engine-version.mjs";

export default defineConfig({
  plugins: [tailwindcss(), reactRouter()],
  worker: { format: "es" },
  define: { __ENGINE_VERSION__: JSON.stringify(engineVersion()) },
});
