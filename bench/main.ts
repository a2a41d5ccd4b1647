import { benchLookups } from "./lookups.ts";
import { printRows } from "./timing.ts";

printRows(benchLookups());
