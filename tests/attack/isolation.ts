import { fleet } from "../../bench/fleet.ts";
import { attacks, type World } from "./attacks.ts";
import type { Person } from "./instance.ts";

const PAGES = ["map", "routes", "paths?flow=tickets", "devices/tern-edge", "outages", "findings"];
/** Rounds of all pages while nothing else is asked. */
const QUIET_ROUNDS = 15;
/** The factor by which one editor may slow down others' pages, relative to the idle median. */
const MAX_FACTOR = 3;

/** Milliseconds of each page, one after the other. */
async function timed(
  { instance, other }: World,
  as: Person,
  until: (round: number) => boolean,
): Promise<number[]> {
  const times: number[] = [];
  for (let round = 0; round === 0 || !until(round); round++)
    for (const page of PAGES) {
      const { status, ms } = await instance.ask("GET", `/plans/${other}/${page}`, { as });
      if (status !== 200) throw new Error(`${page}: ${status}`);
      times.push(ms);
    }
  return times.sort((a, b) => a - b);
}

const at = (times: readonly number[], share: number) =>
  Math.round(times[Math.min(times.length - 1, Math.floor(times.length * share))]);
const told = (times: readonly number[]) =>
  `${at(times, 0.5)} ms at the median, 95 of 100 within ${at(times, 0.95)} ms, the slowest ${at(times, 1)} ms (${times.length} pages)`;

/**
 * How much one editor slows the pages of another person: their times while nothing else is asked, and while the editor
 * tries all that once stopped the server, and works on a large plan.
 * @param devices of the large plan
 */
export async function isolation(world: World, devices: number): Promise<boolean> {
  const { instance, reader, ed } = world;
  await timed(world, reader, () => true);
  const quiet = await timed(world, reader, (round) => round >= QUIET_ROUNDS);
  console.log(`  quiet:     ${told(quiet)}`);
  let done = false;
  const large = async () => {
    const text = JSON.stringify(
      fleet({ devices, links: devices * 2, flows: Math.min(2000, devices), routes: devices * 10 }),
    );
    const plan = await instance.newPlan(ed, text);
    const ask = (path: string) =>
      instance.ask("GET", `/plans/${plan}/${path}`, { as: ed, timeoutMs: 120_000 });
    await Promise.all(["map", "layout", "sheet", "findings"].map(ask));
  };
  const load = async () => {
    for (const attack of attacks.filter((one) => one.load)) {
      const started = performance.now();
      const outcome = await attack.run(world).then(
        () => "held",
        (error: Error) => `HOLE: ${error.message}`,
      );
      console.log(`  ${attack.item}: ${outcome} (${((performance.now() - started) / 1000).toFixed(1)} s)`);
    }
  };
  const busy_ = timed(world, reader, () => done);
  await Promise.all([large(), load()]).finally(() => {
    done = true;
  });
  const busy = await busy_;
  console.log(`  meanwhile: ${told(busy)}`);
  const factor = at(busy, 0.5) / at(quiet, 0.5);
  console.log(`  the median is ${factor.toFixed(2)} times the quiet one; ${MAX_FACTOR} are allowed`);
  return factor <= MAX_FACTOR;
}
