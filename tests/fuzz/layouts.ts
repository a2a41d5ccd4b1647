import { readFiles } from "../../exchange/readings.ts";
import { type PrintedTable, printTable } from "../support/layouts.ts";
import { Random } from "../support/random.ts";

const textOf = (route: PrintedTable["routes"][number]) =>
  [
    route.to,
    route.via ?? "-",
    route.discard ? "discard" : (route.out ?? "-"),
    route.source ?? "-",
    route.distance ?? "-",
    route.metric ?? "-",
    route.vrf,
  ].join(" ");

/** Compares what is read of a printed table with its routes: those missing, and those that are wrong. */
export function compareTable(table: PrintedTable) {
  const readings = readFiles([{ name: "device.txt", text: table.text }], {
    words: Object.entries(table.words),
  });
  const read = (readings.devices[0]?.facts.routes ?? []).map((route) =>
    textOf({ ...route, discard: route.discard !== null }),
  );
  const expected = table.routes.map(textOf);
  const questions = readings.questions?.length ?? 0;
  const missing = expected.filter((one) => !read.includes(one));
  const wrong = read.filter((one) => !expected.includes(one));
  return { count: expected.length, missing, wrong, questions };
}

export function printed(seed: number): PrintedTable {
  return printTable(new Random(seed));
}
