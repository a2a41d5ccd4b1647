import type { Frame } from "./frame.ts";

/** A list of like things as one list for each of their fields: in a document, a third of the size. */
type Columns<T> = { readonly count: number; readonly fields: { readonly [K in keyof T]: readonly T[K][] } };

type List = "flows" | "gateways" | "devices" | "links";

/** A frame as the first document of a page carries it. */
export type PackedFrame = Omit<Frame, List> & { readonly [L in List]: Columns<Frame[L][number]> };

export function packFrame(frame: Frame): PackedFrame {
  const { flows, gateways, devices, links } = frame;
  return {
    ...frame,
    flows: toColumns(flows),
    gateways: toColumns(gateways),
    devices: toColumns(devices),
    links: toColumns(links),
  };
}

export function unpackFrame(packed: PackedFrame): Frame {
  const { flows, gateways, devices, links } = packed;
  return {
    ...packed,
    flows: toRows(flows),
    gateways: toRows(gateways),
    devices: toRows(devices),
    links: toRows(links),
  };
}

function toColumns<T extends object>(rows: readonly T[]): Columns<T> {
  const names = Object.keys(rows[0] ?? {}) as (keyof T)[];
  const fields = Object.fromEntries(names.map((name) => [name, rows.map((row) => row[name])]));
  return { count: rows.length, fields: fields as unknown as Columns<T>["fields"] };
}

function toRows<T extends object>({ count, fields }: Columns<T>): T[] {
  const names = Object.keys(fields) as (keyof T)[];
  return Array.from(
    { length: count },
    (_, n) => Object.fromEntries(names.map((name) => [name, fields[name][n]])) as T,
  );
}
