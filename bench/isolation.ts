import { readFileSync } from "node:fs";
import { LIMITS } from "../core/plan/index.ts";
import { fleet } from "./fleet.ts";

/**
 * How much one large plan slows the pages of another: `npm run bench:isolation -- URL [DEVICES]`. Times the pages of the
 * demo while nothing else is asked, and again while the large plan is read, opened, laid out, looked through and swept.
 */
const [base = "http://127.0.0.1:3000", devices = "5000"] = process.argv.slice(2);
const PAGES = ["map", "routes", "paths?flow=tickets", "devices/tern-edge", "outages", "findings"];
const ROUNDS = 12;

function post(path: string, body: string, type: string): Promise<Response> {
  return fetch(base + path, {
    method: "POST",
    body,
    headers: { Origin: base, "Content-Type": type },
    redirect: "manual",
  });
}

async function keepPlan(text: string): Promise<string> {
  const boundary = "isolation";
  const body = `--${boundary}\r\nContent-Disposition: form-data; name="do"\r\n\r\nread\r\n--${boundary}\r\nContent-Disposition: form-data; name="text"\r\n\r\n${text}\r\n--${boundary}--\r\n`;
  const made = await post("/plans", body, `multipart/form-data; boundary=${boundary}`);
  const id = /\/plans\/(\d+)/.exec(made.headers.get("location") ?? "")?.[1];
  if (!id) throw new Error(`the plan was not taken: ${made.status} ${(await made.text()).slice(0, 400)}`);
  return id;
}

/** Times of every page, in milliseconds, one after the other. */
async function timed(plan: string, until: () => boolean): Promise<number[]> {
  const times: number[] = [];
  for (let round = 0; !until() || round === 0; round++) {
    for (const page of PAGES) {
      const started = performance.now();
      const response = await fetch(`${base}/plans/${plan}/${page}`);
      await response.text();
      if (!response.ok) throw new Error(`${page}: ${response.status}`);
      times.push(performance.now() - started);
    }
  }
  return times.sort((a, b) => a - b);
}

const told = (times: readonly number[]) => {
  const at = (share: number) =>
    Math.round(times[Math.min(times.length - 1, Math.floor(times.length * share))]);
  return { median: at(0.5), p95: at(0.95), most: at(1), count: times.length };
};

const demo = await keepPlan(readFileSync(new URL("../demo/marrow-bay.yaml", import.meta.url), "utf8"));
await timed(demo, () => true);
let rounds = 0;
const quiet = told(await timed(demo, () => ++rounds >= ROUNDS));
console.log("quiet", quiet);

const count = Number(devices);
const text = JSON.stringify(
  fleet({ devices: count, links: count * 2, flows: Math.min(2000, count), routes: count * 10 }),
);
console.log(
  `the large plan: ${count} devices, ${(text.length / 1024 / 1024).toFixed(1)} MB of ${LIMITS.upload / 1024 / 1024}`,
);
let done = false;
const load = (async () => {
  const large = await keepPlan(text);
  const ask = async (path: string, init?: Promise<Response>) => {
    const started = performance.now();
    const response = await (init ?? fetch(`${base}/plans/${large}/${path}`)).catch((error) => error as Error);
    if (response instanceof Response) await response.arrayBuffer();
    const status = response instanceof Response ? response.status : String(response);
    console.log(`  large plan, ${path}: ${status} after ${Math.round(performance.now() - started)} ms`);
  };
  await Promise.all([
    ask("map"),
    ask("layout"),
    ask("sheet"),
    ask("findings"),
    ask(
      "sweeps",
      post(`/plans/${large}/sweeps`, JSON.stringify({ revision: 1, depth: 1, down: [] }), "application/json"),
    ),
  ]);
})().finally(() => {
  done = true;
});
// Connections that stood idle while the plan was written are closed by now.
await fetch(`${base}/health`).catch(() => null);
const busy = told(await timed(demo, () => done));
await load;
console.log("meanwhile", busy);
const factor = busy.median / quiet.median;
console.log(
  `the median is ${factor.toFixed(2)} times the quiet one, 95 of 100 within ${(busy.p95 / quiet.p95).toFixed(2)} times`,
);
process.exitCode = factor > 2 ? 1 : 0;
