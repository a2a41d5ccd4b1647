import { readFileSync } from "node:fs";
import { type Figures, fuzzInside, fuzzRequests, longestStall } from "./run.ts";

/** By hand: npm run fuzz -- COUNT [URL] [SEED]. With a URL, a fifth of the inputs are requests to the application there. */
const [count = "2000", url = "", seedText = ""] = process.argv.slice(2);
const seed = seedText === "" ? Math.floor(Math.random() * 2 ** 31) : Number(seedText);
console.log(`seed ${seed}`);
let failed = 0;
const tell = (name: string, { tried, slowest, failures }: Figures) => {
  failed += failures.length;
  console.log(
    `${name}: ${tried} tried, ${failures.length} failed; slowest ${Math.round(slowest.ms)} ms (${slowest.what}, seed ${slowest.seed})`,
  );
  for (const failure of failures.slice(0, 20))
    console.log(`  ${failure.what}, seed ${failure.seed}: ${failure.message}`);
};
const requests = url === "" ? 0 : Math.floor(Number(count) / 5);
tell("documents, edits, captures and lists", fuzzInside(Number(count) - requests, seed));
if (requests > 0) {
  const text = readFileSync(new URL("../../demo/marrow-bay.yaml", import.meta.url), "utf8");
  const form = new URLSearchParams({ do: "read", text });
  const made = await fetch(`${url}/plans`, {
    method: "POST",
    body: form,
    headers: { Origin: url },
    redirect: "manual",
  });
  const plan = /\/plans\/(\d+)/.exec(made.headers.get("location") ?? "")?.[1] ?? "1";
  await longestStall(url);
  const figures = await fuzzRequests(url, plan, requests, seed);
  tell("requests", figures);
  console.log(`the server's thread stood still for ${Math.round(await longestStall(url))} ms at the longest`);
}
process.exitCode = failed > 0 ? 1 : 0;
