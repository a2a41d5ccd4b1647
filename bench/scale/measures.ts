import { groupsAlike, summaryOf } from "../../core/authoring/index.ts";
import { failuresOf, sweep } from "../../core/failures/index.ts";
import { findAll } from "../../core/findings/index.ts";
import { impactOf } from "../../core/impact/index.ts";
import type { Edit, Plan } from "../../core/plan/index.ts";
import { readPlan, routeIdentity } from "../../core/plan/index.ts";
import { NetworkModel } from "../../core/scenario/index.ts";
import { flatTrips } from "../../core/walk/index.ts";
import { fleet } from "../fleet.ts";
import { chain } from "../fleets/chain.ts";
import { hubSpoke } from "../fleets/hub-spoke.ts";
import { internetTable } from "../fleets/internet.ts";
import { leafSpine } from "../fleets/leaf-spine.ts";
import { mesh } from "../fleets/mesh.ts";
import { policyFleet } from "../fleets/policy.ts";

/** Something that is timed on fleets of two sizes. */
export interface Measure {
  readonly name: string;
  readonly sizes: readonly [number, number];
  readonly fleet: (size: number) => Plan;
  /** Prepares the untimed part, and returns the timed one. */
  readonly ready: (plan: Plan) => () => unknown;
  /** Whether the time without reuse is measured beside it, from a sample. */
  readonly anew?: boolean;
}

const ring = (devices: number) =>
  fleet({ devices, links: devices * 2, flows: devices / 2, routes: devices * 20 });

const compiled = (plan: Plan) => () => NetworkModel.compile(plan);

/** A document from its text to a plan. */
const readAnew = (plan: Plan) => {
  const text = JSON.stringify(plan);
  return () => readPlan(JSON.parse(text));
};

const swept = (depth: 1 | 3) => (plan: Plan) => () => {
  const model = NetworkModel.compile(plan);
  const questions = model.flows().map(({ question }) => question);
  return sweep(model.engine, model.gateways, questions, depth);
};

/** The same without the times, as far as the steps of a change need it. */
const verdicts = (plan: Plan) => {
  const model = NetworkModel.compile(plan);
  const questions = model.flows().map(({ question }) => question);
  return () => {
    const { engine, gateways } = NetworkModel.compile(plan);
    return failuresOf(engine, gateways, questions, 1);
  };
};

const found = (plan: Plan) => () => findAll(NetworkModel.compile(plan), { fixes: false });

const adding = (device: string, collection: "routes" | "interfaces", after: object): Edit => ({
  label: "one more",
  changes: [{ in: "device", device, collection, before: null, after }],
});

/** A discard route more on the device with the most routes. */
function anotherRoute(plan: Plan): Edit {
  const { id } = plan.devices.reduce((a, b) => (b.routes.length > a.routes.length ? b : a));
  return adding(id, "routes", { to: "198.18.7.0/24", discard: "drop" });
}

/** An interface more on a device among many. */
function anotherInterface(plan: Plan): Edit {
  const { id } = plan.devices[plan.devices.length >> 1];
  return adding(id, "interfaces", { name: "spare", addresses: ["198.18.250.1/24"] });
}

const edited = (edit: (plan: Plan) => Edit) => (plan: Plan) => {
  const model = NetworkModel.compile(plan);
  model.trips();
  return () => impactOf(model, edit(plan));
};

function summarised(plan: Plan) {
  const model = NetworkModel.compile(plan);
  const { id } = plan.devices.reduce((a, b) => (b.routes.length > a.routes.length ? b : a));
  const routes = groupsAlike(model, id)[0].map(routeIdentity);
  return () => summaryOf(model, id, routes);
}

function allFlows(plan: Plan) {
  const model = NetworkModel.compile(plan);
  const trips = flatTrips(model.network);
  const questions = model.flows().map(({ question }) => question);
  const once = () => questions.map((question) => trips.verdictOf(model.world, question));
  once();
  return () => {
    for (let n = 0; n < 20; n++) once();
  };
}

export const measures: readonly Measure[] = [
  {
    name: "mesh with watches: every single failure",
    sizes: [20, 40],
    fleet: mesh,
    ready: swept(1),
    anew: true,
  },
  { name: "mesh with watches: to depth 3", sizes: [5, 8], fleet: mesh, ready: swept(3) },
  { name: "hub and spoke: compiled and settled", sizes: [100, 400], fleet: hubSpoke, ready: compiled },
  {
    name: "hub and spoke: every single failure",
    sizes: [25, 100],
    fleet: hubSpoke,
    ready: swept(1),
    anew: true,
  },
  { name: "hub and spoke: findings", sizes: [25, 100], fleet: hubSpoke, ready: found },
  {
    name: "sites on hubs: every single failure",
    sizes: [250, 1000],
    fleet: ring,
    ready: swept(1),
    anew: true,
  },
  {
    name: "sites on hubs: compiled, every single failure without times",
    sizes: [250, 1000],
    fleet: ring,
    ready: verdicts,
  },
  { name: "sites on hubs: findings", sizes: [250, 1000], fleet: ring, ready: found },
  {
    name: "sites on hubs: findings with proven fixes",
    sizes: [250, 1000],
    fleet: ring,
    ready: (plan) => () => findAll(NetworkModel.compile(plan)),
  },
  {
    name: "sites on hubs: all flows, twenty times",
    sizes: [250, 1000],
    fleet: ring,
    ready: allFlows,
  },
  {
    name: "sites on hubs: one route more, its effect and difference",
    sizes: [250, 1000],
    fleet: ring,
    ready: edited(anotherRoute),
  },
  {
    name: "sites on hubs: one interface more, its effect and difference",
    sizes: [250, 1000],
    fleet: ring,
    ready: edited(anotherInterface),
  },
  { name: "sites on hubs: summaries of a hub", sizes: [100, 200], fleet: ring, ready: summarised },
  {
    name: "leaves and spines, shared load: every single failure",
    sizes: [10, 40],
    fleet: (leaves) => leafSpine(leaves, 6),
    ready: swept(1),
    anew: true,
  },
  {
    name: "the same in IPv6",
    sizes: [10, 40],
    fleet: (leaves) => leafSpine(leaves, 6, leaves, 6),
    ready: swept(1),
  },
  { name: "chain of next hops: every single failure", sizes: [15, 60], fleet: chain, ready: swept(1) },
  {
    name: "firewalls and policy: every single failure",
    sizes: [25, 100],
    fleet: policyFleet,
    ready: swept(1),
  },
  { name: "internet table: read", sizes: [25_000, 100_000], fleet: internetTable, ready: readAnew },
  { name: "internet table: compiled", sizes: [25_000, 100_000], fleet: internetTable, ready: compiled },
];
