import { reactRouter } from "@react-router/dev/vite";
import tailwindcss from "@tailwindcss/vite";
import { defineConfig } from "vite";
import { versions } from "./bin/source-version.mjs";

/**
 * What at least so many pages need comes in two files, of libraries and of our own: a request for each small piece
 * costs a browser more than the piece.
 */
const minShareCount = 5;
const groups = [
  { name: "libraries", test: /node_modules/, minShareCount },
  { name: "shared", minShareCount },
];

export default defineConfig({
  plugins: [tailwindcss(), reactRouter()],
  worker: { format: "es" },
  environments: { client: { build: { rolldownOptions: { output: { codeSplitting: { groups } } } } } },
  define: versions(),
});
