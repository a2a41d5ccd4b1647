import { actionCodes, type Network, resolveCodes, sourceCodes } from "../network/index.ts";

/** Whether a candidate may end or continue the chain of a next hop, under a resolve rule (rule 4.3). */
export function mayCarryNextHop(network: Network, candidate: number, rule: number): boolean {
  const { candidates } = network;
  if (candidates.source[candidate] === sourceCodes.local) return false;
  if (rule === resolveCodes.any) return true;
  if (rule === resolveCodes["not-default"]) return candidates.length[candidate] > 0;
  return isAttachment(network, candidate);
}

/** Connected routes, and routes that name an interface alone, reach their destination without a next hop. */
export function isAttachment(network: Network, candidate: number): boolean {
  const { candidates } = network;
  return (
    candidates.source[candidate] === sourceCodes.connected ||
    (candidates.action[candidate] === actionCodes.forward &&
      candidates.out[candidate] >= 0 &&
      candidates.hasVia[candidate] === 0)
  );
}
