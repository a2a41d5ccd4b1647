/**
 * The nodes that lead back to themselves: members of a strongly connected component of more than one node, and nodes
 * that lead straight to themselves (Tarjan's algorithm, without recursion). `next` gives where a node leads; nodes
 * outside `nodes` are passed over. Time: O(nodes + edges).
 */
export function inCircles(nodes: readonly number[], next: (node: number) => readonly number[]): number[] {
  const wanted = new Set(nodes);
  const order = new Map<number, number>();
  const low = new Map<number, number>();
  const open: number[] = [];
  const isOpen = new Set<number>();
  const found: number[] = [];
  for (const root of nodes) {
    if (order.has(root)) continue;
    const visits = [enter(root)];
    for (let visit = visits.at(-1); visit; visit = visits.at(-1)) {
      const to = visit.next[visit.at++];
      if (to === undefined) {
        visits.pop();
        leave(visit.node);
        const below = visits.at(-1);
        if (below) lower(below.node, low.get(visit.node) as number);
      } else if (!order.has(to)) visits.push(enter(to));
      else if (isOpen.has(to)) lower(visit.node, order.get(to) as number);
    }
  }
  return found.sort((a, b) => a - b);

  function enter(node: number) {
    order.set(node, order.size);
    low.set(node, order.get(node) as number);
    open.push(node);
    isOpen.add(node);
    return { node, at: 0, next: next(node).filter((to) => wanted.has(to)) };
  }

  function lower(node: number, to: number) {
    low.set(node, Math.min(low.get(node) as number, to));
  }

  /** Where a component is whole, its nodes are taken off; alone a node counts only where it leads to itself. */
  function leave(node: number) {
    if (low.get(node) !== order.get(node)) return;
    const members: number[] = [];
    for (;;) {
      const member = open.pop() as number;
      isOpen.delete(member);
      members.push(member);
      if (member === node) break;
    }
    if (members.length > 1 || next(node).includes(node)) for (const member of members) found.push(member);
  }
}
