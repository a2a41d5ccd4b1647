import { writeFileSync } from "node:fs";
import { join } from "node:path";
import { answersOf } from "./digest.ts";
import { answeredPlans } from "./plans.ts";

/** Writes the answers anew: only where an answer is meant to change. */
const answers = Object.fromEntries(answeredPlans().map((one) => [one.name, answersOf(one)]));
writeFileSync(join(import.meta.dirname, "answers.json"), `${JSON.stringify(answers, null, 2)}\n`);
console.log(`${Object.keys(answers).length} plans written`);
