import type { Plan } from "../../core/plan/index.ts";
import { bfd, Draft, type End, probe } from "./draft.ts";

/**
 * Two hubs, and spokes on a line to each of them with BFD on both ends; a tunnel over the lines to the first hub, and a
 * probe of the second hub's loopback. Spokes have a default by each line and by the tunnel; hubs know every spoke by
 * its line, and floating by the other hub and by the tunnel.
 */
export function hubSpoke(spokes: number, flows = spokes): Plan {
  const draft = new Draft(`hub and ${spokes} spokes`);
  const hubs = ["hub-a", "hub-b"];
  for (const hub of hubs) draft.device(hub, "router");
  const [across, back] = draft.join("hub-a", "hub-b");
  draft.watch("hub-a", bfd("across", across));
  draft.watch("hub-b", bfd("across", back));
  const centre = hubs.map((hub, n) => draft.loopback(hub, n));
  draft.route("hub-a", { to: `${centre[1]}/32`, via: across.far, watch: "across" });
  draft.route("hub-b", { to: `${centre[0]}/32`, via: back.far, watch: "across" });
  for (let s = 0; s < spokes; s++) {
    const id = `spoke-${s}`;
    draft.device(id, "router");
    const [hubSide, own] = draft.join("hub-a", id, s % 3 ? "cable" : "circuit");
    const [hubSecond, ownSecond] = draft.join("hub-b", id, s % 4 ? "cable" : "circuit");
    const lan = draft.lan(id, s);
    const outer = draft.loopback(id, s + 2);
    const tunnel = tunnelBetween(draft, id, outer, centre[0], s);
    watchLine(draft, "hub-a", `s${s}`, hubSide);
    watchLine(draft, id, "a", own);
    watchLine(draft, "hub-b", `s${s}`, hubSecond);
    watchLine(draft, id, "b", ownSecond);
    draft.watch(id, probe("far", centre[1], s % 2 ? { out: ownSecond.name } : {}));
    draft.watch(id, { id: "either", kind: "group", need: "any", of: ["a", "far"] });
    draft.route(
      id,
      { to: "0.0.0.0/0", via: own.far, watch: s % 5 ? "a" : "either" },
      { to: "0.0.0.0/0", via: ownSecond.far, distance: 10, watch: "b" },
      { to: "0.0.0.0/0", via: tunnel.far, distance: 20 },
      { to: `${centre[0]}/32`, via: own.far, watch: "a" },
      { to: `${centre[0]}/32`, via: ownSecond.far, distance: 10 },
      { to: `${centre[1]}/32`, via: ownSecond.far },
    );
    for (const to of [lan, `${outer}/32`]) {
      draft.route(
        "hub-a",
        { to, via: hubSide.far, watch: `s${s}` },
        { to, via: across.far, distance: 10, watch: "across" },
      );
      draft.route("hub-b", { to, via: hubSecond.far, watch: `s${s}` }, { to, via: back.far, distance: 10 });
    }
    draft.route("hub-a", { to: lan, via: tunnel.own, distance: 20 });
  }
  for (let f = 0; f < flows; f++)
    draft.flow(f % spokes, (f * 7 + 1) % spokes === f % spokes ? (f + 1) % spokes : (f * 7 + 1) % spokes);
  return draft.plan();
}

function watchLine(draft: Draft, device: string, id: string, end: End) {
  draft.watch(device, bfd(id, end));
}

/** A tunnel from a spoke to the first hub's loopback; the addresses of the spoke's end and of the hub's. */
function tunnelBetween(draft: Draft, spoke: string, outer: string, hub: string, n: number) {
  const net = `172.${16 + (n >> 13)}.${(n >> 5) & 255}`;
  const at = (n & 31) * 4;
  const [far, own] = [`${net}.${at + 1}`, `${net}.${at + 2}`];
  const keepaliveMs = n % 3 ? 1000 : 0;
  draft.port("hub-a", {
    name: `tun${n}`,
    kind: "tunnel",
    addresses: [`${far}/30`],
    underlay: { to: outer, from: hub, keepaliveMs },
  });
  draft.port(spoke, {
    name: "tun",
    kind: "tunnel",
    addresses: [`${own}/30`],
    underlay: { to: hub, from: outer, keepaliveMs },
  });
  return { own, far };
}
