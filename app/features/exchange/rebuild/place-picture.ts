import type { Picture } from "../../../../exchange/rebuild/picture.ts";

/** A part of the drawing at its place: its middle left, its width, all in pixels. */
export interface Placed {
  readonly id: string;
  readonly line: number;
  readonly kind: "device" | "port" | "hop" | "network" | "discarded";
  readonly x: number;
  readonly y: number;
  readonly width: number;
  readonly title: string;
  readonly below: string;
  readonly dashed: boolean;
}

interface Wire {
  readonly id: string;
  readonly line: number;
  readonly path: string;
  readonly dashed: boolean;
}

const ROW = 52;
const TOP = 34;
const LETTER = 7.4;
const GAP = 34;

interface Branch {
  item: Omit<Placed, "x" | "y">;
  children: Branch[];
}

/** Places all parts as a tree that opens to the right, at their final positions, so that none moves. */
export function placePicture(picture: Picture): {
  items: Placed[];
  wires: Wire[];
  width: number;
  height: number;
} {
  const root = treeOf(picture);
  const widths: number[] = [];
  measure(root, 0, widths);
  const starts = widths.map((_, i) => 16 + widths.slice(0, i).reduce((sum, width) => sum + width + GAP, 0));
  const items: Placed[] = [];
  const wires: Wire[] = [];
  let row = 0;
  const place = (branch: Branch, depth: number): number => {
    const below = branch.children.map((child) => place(child, depth + 1));
    const y = below.length > 0 ? (below[0] + below[below.length - 1]) / 2 : TOP + row++ * ROW;
    const at = { ...branch.item, x: starts[depth], y };
    items.push(at);
    for (const [i, child] of branch.children.entries()) {
      const [from, to] = [at.x + at.width, starts[depth + 1]];
      const middle = (from + to) / 2;
      wires.push({
        id: `wire ${child.item.id}`,
        line: child.item.line,
        path: `M${from} ${y}C${middle} ${y} ${middle} ${below[i]} ${to} ${below[i]}`,
        dashed: child.item.dashed,
      });
    }
    return y;
  };
  place(root, 0);
  const right = starts[starts.length - 1] + (widths[widths.length - 1] ?? 0);
  return { items, wires, width: right + 16, height: TOP + row * ROW };
}

function measure({ item, children }: Branch, depth: number, widths: number[]) {
  widths[depth] = Math.max(widths[depth] ?? 0, item.width);
  for (const child of children) measure(child, depth + 1, widths);
}

const widthOf = (text: string) => Math.max(44, Math.ceil(text.length * LETTER) + 20);

function treeOf({ device, ports, hops, networks }: Picture): Branch {
  const networksOn = (on: string): Branch[] =>
    networks
      .filter((network) => network.on === on)
      .map(({ id, line, prefix, kind, far }) => ({
        item: {
          id,
          line,
          kind: kind === "discarded" ? "discarded" : "network",
          width: widthOf(prefix),
          title: prefix,
          below: kind === "discarded" ? "discarded" : far,
          dashed: kind === "behind",
        },
        children: [],
      }));
  const hopsBehind = (port: string | null): Branch[] =>
    hops
      .filter((hop) => hop.port === port)
      .map(({ id, line, address }) => ({
        item: { id, line, kind: "hop", width: widthOf(address), title: address, below: "", dashed: true },
        children: networksOn(id),
      }));
  const children: Branch[] = [
    ...ports.map(({ id, line, name }) => ({
      item: { id, line, kind: "port" as const, width: widthOf(name), title: name, below: "", dashed: false },
      children: [...networksOn(id), ...hopsBehind(id)],
    })),
    ...hopsBehind(null),
    ...networksOn("device"),
  ];
  const item = {
    id: "device",
    line: 0,
    kind: "device" as const,
    width: widthOf(device),
    title: device,
    below: "",
    dashed: false,
  };
  return { item, children };
}
