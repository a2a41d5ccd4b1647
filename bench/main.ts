import { benchGrowth, benchSweep, benchTables, benchWhatIf } from "./engine.ts";
import { benchLookups } from "./lookups.ts";
import { printRows } from "./timing.ts";

printRows([...benchLookups(), ...benchTables(), ...benchSweep(), ...benchWhatIf()]);
console.log(
  "\n| devices | routes | compiling | tables | every single failure | memory |\n|---|---|---|---|---|---|",
);
for (const row of benchGrowth()) {
  const ms = (value: number | null) => (value === null ? "–" : `${value.toFixed(0)} ms`);
  console.log(
    `| ${row.devices} | ${row.routes} | ${ms(row.compileMs)} | ${ms(row.tablesMs)} | ${ms(row.sweepMs)} | ${row.megabytes.toFixed(0)} MB |`,
  );
}
