import { compareTable, printed } from "./layouts.ts";

/** Reads random layouts and prints the share that is exact: `npm run fuzz:layouts [COUNT] [SEED]`; `--show` prints failures. */
const [count = 20_000, first = Math.floor(Math.random() * 1e9)] = process.argv
  .slice(2)
  .filter((word) => /^\d+$/.test(word))
  .map(Number);
const show = process.argv.includes("--show");
/** Only failures of this family are printed. */
const only = process.argv.find((word) => word.startsWith("--family="))?.slice(9);
const families = new Map<
  string,
  { texts: number; exact: number; routes: number; right: number; wrong: number; asked: number }
>();
let shown = 0;
for (let seed = first; seed < first + count; seed++) {
  const table = printed(seed);
  const { count: routes, missing, wrong, questions } = compareTable(table);
  const own = families.get(table.family) ?? { texts: 0, exact: 0, routes: 0, right: 0, wrong: 0, asked: 0 };
  families.set(table.family, own);
  own.texts++;
  own.routes += routes;
  own.right += routes - missing.length;
  own.wrong += wrong.length;
  if (questions > 0) own.asked++;
  if (missing.length === 0 && wrong.length === 0) own.exact++;
  else if (show && (!only || table.family === only) && shown++ < 5)
    console.log(
      `--- seed ${seed}, ${table.family}, ${questions} questions\n${table.text}\nmissing:\n  ${missing.join("\n  ")}\nwrong:\n  ${wrong.join("\n  ")}`,
    );
}
const percent = (part: number, whole: number) => `${((100 * part) / whole).toFixed(2)} %`;
const all = { texts: 0, exact: 0, routes: 0, right: 0, wrong: 0, asked: 0 };
for (const [family, own] of families) {
  for (const key of Object.keys(all) as (keyof typeof all)[]) all[key] += own[key];
  console.log(
    `${family}: texts ${percent(own.exact, own.texts)} exact, routes ${percent(own.right, own.routes)}, wrong ${own.wrong}, with questions ${own.asked}`,
  );
}
console.log(
  `seed ${first}: ${all.texts} texts ${percent(all.exact, all.texts)} exact, ${all.routes} routes ${percent(all.right, all.routes)} exact, ${all.wrong} wrong, ${all.asked} texts with questions`,
);
