import { sweep } from "../core/failures/index.ts";
import { compile, elementCount } from "../core/network/index.ts";
import { buildTables } from "../core/routes/index.ts";
import { createEngine, type Engine, settle } from "../core/settle/index.ts";
import { flowQuestions, gatewaysOf, walkBothWays } from "../core/walk/index.ts";
import { fleet } from "./fleet.ts";
import { bestOf, type Row } from "./timing.ts";

const seconds = (ms: number) =>
  ms < 1000 ? `${ms.toFixed(ms < 10 ? 1 : 0)} ms` : `${(ms / 1000).toFixed(2)} s`;

/** All tables of 1,000 devices with 100,000 routes. */
export function benchTables(): Row[] {
  const plan = fleet({ devices: 1000, links: 2000, flows: 0, routes: 100_000 });
  const routes = plan.devices.reduce((sum, device) => sum + device.routes.length, 0);
  const compiled = bestOf(2, () => compile(plan));
  const network = compiled.result;
  const engine = createEngine(network);
  const { state } = engine.healthy.world;
  const tables = bestOf(3, () => network.devices.map((device) => buildTables(network, device, state)));
  return [
    {
      what: `compiling ${network.devices.length} devices, ${routes} routes`,
      measured: seconds(compiled.ms),
      baseline: "–",
      target: "–",
    },
    {
      what: `all tables of ${network.devices.length} devices, ${routes} routes`,
      measured: `${seconds(tables.ms)} (with compiling ${seconds(tables.ms + compiled.ms)})`,
      baseline: "–",
      target: "2 s",
    },
  ];
}

/** What a plain program would do: for one failure, build everything anew and walk every flow. */
export function recomputeAll(engine: Engine, element: number) {
  const fresh = createEngine(engine.network);
  const { world } = settle(fresh, [element]);
  for (const device of engine.network.devices) world.tablesOf(device.index);
  return flowQuestions(fresh.network).map(({ question }) => walkBothWays(world, question).verdict);
}

export function benchSweep(): Row[] {
  const engine = createEngine(compile(fleet({ devices: 1000, links: 2000, flows: 500, routes: 30_000 })));
  const gateways = gatewaysOf(engine.healthy.world);
  const questions = flowQuestions(engine.network).map(({ question }) => question);
  const elements = elementCount(engine.network);
  const ours = bestOf(0, () => timed(() => sweep(engine, gateways, questions, 1)));
  const sample = 5;
  const plain = timed(() => {
    for (let i = 0; i < sample; i++) recomputeAll(engine, Math.floor((i * elements) / sample));
  });
  const everything = (plain.ms / sample) * elements;
  return [
    {
      what: `every single failure (${elements}) of ${engine.network.devices.length} devices, ${engine.network.links.planned} links, ${questions.length} flows`,
      measured: `${seconds(ours.result.ms)}, ${(everything / ours.result.ms).toFixed(0)} times the baseline's speed`,
      baseline: `${seconds(everything)} (everything anew, from ${sample} failures)`,
      target: "5 s, 50 times",
    },
  ];
}

/** One click on a plan of 200 devices: the new state and the answer for every flow. */
export function benchWhatIf(): Row[] {
  const engine = createEngine(compile(fleet({ devices: 200, links: 400, flows: 100, routes: 5000 })));
  const questions = flowQuestions(engine.network).map(({ question }) => question);
  let element = 0;
  const ours = bestOf(20, () => {
    const { world } = settle(engine, [element++]);
    return questions.map((question) => walkBothWays(world, question).verdict);
  });
  const plain = bestOf(2, () => recomputeAll(engine, element++));
  return [
    {
      what: "a what-if on 200 devices, 100 flows (computation alone)",
      measured: seconds(ours.ms),
      baseline: `${seconds(plain.ms)} (everything anew)`,
      target: "100 ms in the browser",
    },
  ];
}

/** How time and memory grow with the fleet. */
export function benchGrowth(): {
  devices: number;
  routes: number;
  compileMs: number;
  tablesMs: number;
  /** null: not run, because it would take minutes. */
  sweepMs: number | null;
  megabytes: number;
}[] {
  return [100, 300, 1000, 3000].map((devices) => {
    const plan = fleet({
      devices,
      links: devices * 2,
      flows: Math.round(devices / 10),
      routes: devices * 20,
    });
    const routes = plan.devices.reduce((sum, device) => sum + device.routes.length, 0);
    const before = process.memoryUsage().heapUsed + process.memoryUsage().arrayBuffers;
    const compiled = timed(() => compile(plan));
    const engine = createEngine(compiled.result);
    const tables = timed(() =>
      engine.network.devices.map((device) => engine.healthy.world.tablesOf(device.index)),
    );
    const questions = flowQuestions(engine.network).map(({ question }) => question);
    const swept =
      devices <= 1000 ? timed(() => sweep(engine, gatewaysOf(engine.healthy.world), questions, 1)) : null;
    const after = process.memoryUsage().heapUsed + process.memoryUsage().arrayBuffers;
    return {
      devices,
      routes,
      compileMs: compiled.ms,
      tablesMs: tables.ms,
      sweepMs: swept?.ms ?? null,
      megabytes: Math.max(0, (after - before) / 1024 / 1024),
    };
  });
}

function timed<T>(work: () => T): { ms: number; result: T } {
  const start = performance.now();
  const result = work();
  return { ms: performance.now() - start, result };
}
