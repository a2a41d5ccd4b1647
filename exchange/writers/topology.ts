import type { Device, Plan } from "../../core/plan/index.ts";
import type { OutputFile } from "./output-file.ts";

const split = (end: string) => ({
  node: end.slice(0, end.indexOf("/")),
  tp: end.slice(end.indexOf("/") + 1),
});

/** RFC 8345: nodes, termination points, and one link per direction; a shared segment is a node. */
export function topologyFiles(plan: Plan, devices: readonly Device[]): OutputFile[] {
  const chosen = new Set(devices.map(({ id }) => id));
  const segments = plan.links.filter(({ ends }) => ends.length !== 2);
  const point = (id: string) => ({ "tp-id": id });
  const node = [
    ...devices.map((device) => ({
      "node-id": device.id,
      "ietf-network-topology:termination-point": device.interfaces.map(({ name }) => point(name)),
    })),
    ...segments.map((link) => ({
      "node-id": `link:${link.id}`,
      "ietf-network-topology:termination-point": link.ends.map((end) => point(end)),
    })),
  ];
  const link = plan.links.flatMap(({ id, ends }) => {
    const own = ends.filter((end) => chosen.has(split(end).node));
    if (ends.length === 2)
      return own.length === 2
        ? [oneWay(id, split(ends[0]), split(ends[1])), oneWay(`${id} back`, split(ends[1]), split(ends[0]))]
        : [];
    return own.flatMap((end) => [
      oneWay(`${id} ${end}`, split(end), { node: `link:${id}`, tp: end }),
      oneWay(`${id} ${end} back`, { node: `link:${id}`, tp: end }, split(end)),
    ]);
  });
  const network = { "network-id": plan.name, node, "ietf-network-topology:link": link };
  return [
    {
      name: "topology.json",
      text: `${JSON.stringify({ "ietf-network:networks": { network: [network] } }, null, 2)}\n`,
    },
  ];
}

function oneWay(id: string, from: { node: string; tp: string }, to: { node: string; tp: string }) {
  return {
    "link-id": id,
    source: { "source-node": from.node, "source-tp": from.tp },
    destination: { "dest-node": to.node, "dest-tp": to.tp },
  };
}
