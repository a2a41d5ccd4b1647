// Lays a compressed copy beside each asset of the browser, once, at the build: the server would else compress the same
// files for every visit.
import { readdir, readFile, writeFile } from "node:fs/promises";
import { promisify } from "node:util";
import { brotliCompress, constants, gzip } from "node:zlib";

const folder = new URL("../build/client/assets/", import.meta.url);
/** Uncompressed types, if large enough that compression saves a packet. */
const text = /\.(js|css|json|svg)$/;
const least = 1024;
// The highest quality takes many times as long to save a few hundredths more.
const quality = { params: { [constants.BROTLI_PARAM_QUALITY]: 9 } };

async function compress(name) {
  const bytes = await readFile(new URL(name, folder));
  if (bytes.length < least) return;
  await writeFile(new URL(`${name}.gz`, folder), await promisify(gzip)(bytes, { level: 9 }));
  await writeFile(new URL(`${name}.br`, folder), await promisify(brotliCompress)(bytes, quality));
}

await Promise.all((await readdir(folder)).filter((name) => text.test(name)).map(compress));
