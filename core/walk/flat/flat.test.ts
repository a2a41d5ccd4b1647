import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { chain } from "../../../bench/fleets/chain.ts";
import { hubSpoke } from "../../../bench/fleets/hub-spoke.ts";
import { leafSpine } from "../../../bench/fleets/leaf-spine.ts";
import { mesh } from "../../../bench/fleets/mesh.ts";
import { policyFleet } from "../../../bench/fleets/policy.ts";
import { fullPlan } from "../../../tests/support/full-plan.ts";
import { linkLocalPlan } from "../../../tests/support/link-local-plan.ts";
import { anyElement, demoPlan, engineOf } from "../../../tests/support/plans.ts";
import { Random } from "../../../tests/support/random.ts";
import { withOddities, withWatches, withWayIn } from "../../../tests/support/random-extras.ts";
import { randomPlan } from "../../../tests/support/random-plan.ts";
import { withShared } from "../../../tests/support/random-shared.ts";
import { addressAt } from "../../network/index.ts";
import type { Plan } from "../../plan/index.ts";
import { type Engine, settle, worldsOf } from "../../settle/index.ts";
import { walkBothWays, worksPartly } from "../flow.ts";
import { carriersOf, carriersOfTrip } from "../gateways.ts";
import { flowQuestions, isDoubtful, type Question, walkPacket } from "../index.ts";
import { plainTrip } from "./plain.ts";
import { flatTrips } from "./trips.ts";

/** Compares both ways of walking a flow. */
function expectAlike(engine: Engine, failed: readonly number[], questions: readonly Question[]) {
  const flat = flatTrips(engine.network);
  for (const world of worldsOf(settle(engine, failed))) {
    for (const question of questions) {
      const trip = walkBothWays(world, question);
      const ended = trip.worst.outbound.drop?.code ?? trip.worst.reply?.drop?.code ?? null;
      expect(flat.outcome(world, question, engine.gateways)).toEqual({
        verdict: trip.verdict,
        carriers: carriersOfTrip(engine.gateways, trip),
        partly: worksPartly(trip),
        // Only two Active routers of which one is deaf leave it open who answers.
        uncertain: isDoubtful(world.state, trip),
        ended,
      });
      const walks = walkPacket(world, question);
      const worst = walks.find((walk) => walk.result !== "delivered") ?? walks[0];
      const end = flat.end(world, question, engine.gateways);
      if (end) {
        expect(end).toEqual({
          result: worst.result,
          at: worst.hops[worst.hops.length - 1].device,
          code: worst.drop?.code ?? null,
          single: walks.length === 1,
          carriers: carriersOf(engine.gateways, walks),
          way: worst.hops.map((hop) => hop.device),
          exits: worst.hops.map((hop) => hop.out),
        });
      }
      flat.outcome(world, question, engine.gateways);
      const told: number[] = [];
      for (const [n, { outbound, reply }] of trip.branches.entries()) {
        const way = (mark: number, hops: typeof outbound.hops) =>
          told.push(mark, ...hops.flatMap(({ device, out }) => [device, out]));
        if (outbound !== trip.branches[n - 1]?.outbound) way(-2, outbound.hops);
        if (reply) way(-3, reply.hops);
      }
      expect([...flat.ways()]).toEqual(told);
      const plain = plainTrip(world, question);
      if (plain) {
        const [{ outbound, reply }] = trip.branches;
        expect(trip.branches).toHaveLength(1);
        expect(outbound.packet?.source).toEqual(plain.source);
        for (const [walk, { devices, exits, entries }] of [
          [outbound, plain.out],
          [reply, plain.back],
        ] as const) {
          const hops = walk?.hops ?? [];
          expect(hops.slice(0, -1).map(({ device, out }) => [device, out])).toEqual(
            devices.map((device, k) => [device, exits[k]]),
          );
          expect(hops.slice(1).map((hop) => hop.in)).toEqual(entries);
        }
      }
      // If only the verdict is requested, plain paths are walked on demand.
      expect(flat.verdictOf(world, question)).toBe(trip.verdict);
      expect(flat.allArrive()).toBe(trip.branches.every(({ outbound }) => outbound.result === "delivered"));
      expect([...flat.ways()]).toEqual(told);
    }
  }
}

/** The plan's flows, and packets from anywhere to anywhere, some of them with a source or a port. */
function questionsFor(engine: Engine, random: Random): Question[] {
  const { network } = engine;
  const { addresses } = network;
  const anyAddress = () => {
    const k = random.below(addresses.count);
    return addressAt(addresses.words, addresses.family[k] as 4 | 6, k);
  };
  const more = Array.from({ length: 12 }, (): Question => {
    const destination = anyAddress();
    const source = random.chance(0.3) ? anyAddress() : null;
    const device = random.below(network.devices.length);
    const own = random.chance(0.5) ? { ...destination, w0: destination.w0 + random.below(300) } : destination;
    return {
      device,
      vrf: random.below(network.devices[device].vrfs.length),
      source: source?.family === destination.family ? source : null,
      destination: destination.family === 4 ? { ...own, w0: own.w0 >>> 0 } : destination,
      protocol: random.pick(["icmp", "tcp", "udp"] as const),
      port: random.chance(0.5) ? 443 : null,
    };
  });
  return [...flowQuestions(network).map(({ question }) => question), ...more];
}

function expectAlikeUnderFailures(plan: Plan, random: Random, times: number) {
  const engine = engineOf(plan);
  const questions = questionsFor(engine, random);
  expectAlike(engine, [], questions);
  for (let n = 0; n < times; n++) {
    const some = Array.from({ length: 1 + random.below(3) }, () => anyElement(engine.network, random));
    expectAlike(engine, some, questions);
  }
}

describe("the walk over rows ends as the one that is told in full", () => {
  it("on random plans with watches, tunnels, tables by source, translation and policy, whatever has failed", () => {
    fc.assert(
      fc.property(fc.nat(1_000_000), (seed) => {
        const random = new Random(seed);
        const base = randomPlan(seed, { mistakes: seed % 3 === 0, family: seed % 5 ? 4 : 6 });
        expectAlikeUnderFailures(
          seed % 3 ? withOddities(base, random) : withWatches(base, random),
          random,
          5,
        );
      }),
      { numRuns: 30 },
    );
  });

  it("on random plans with virtual routers, pairs, bundles and tags (rules 14, 15, 17)", () => {
    fc.assert(
      fc.property(fc.nat(1_000_000), (seed) => {
        const random = new Random(seed);
        const base = randomPlan(seed, { mistakes: seed % 3 === 0, family: seed % 5 ? 4 : 6 });
        expectAlikeUnderFailures(withShared(seed % 2 ? base : withWatches(base, random), random), random, 5);
      }),
      { numRuns: 20 },
    );
  });

  it("on random plans whose routers answer by the way in (rule 6.8)", () => {
    fc.assert(
      fc.property(fc.nat(1_000_000), (seed) => {
        const random = new Random(seed);
        const base = randomPlan(seed, { mistakes: seed % 3 === 0, family: seed % 5 ? 4 : 6 });
        const plan = withWayIn(seed % 2 ? base : withOddities(base, random), random);
        expectAlikeUnderFailures(plan, random, 4);
      }),
      // A return path over otherwise unused routes, because a device on it answers through the ingress interface.
      { numRuns: 20, examples: [[853987]] },
    );
  });

  it.each(
    [
      demoPlan("marrow-bay"),
      demoPlan("three-routers"),
      fullPlan(),
      linkLocalPlan(),
      mesh(6),
      hubSpoke(5),
      leafSpine(5, 4),
      leafSpine(4, 3, 6, 6),
      chain(12),
      policyFleet(9),
    ].map((plan) => [plan.name, plan] as const),
  )("on %s", (_, plan) => {
    expectAlikeUnderFailures(plan, new Random(7), 25);
  });
});
