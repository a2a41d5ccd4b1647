import { writeFileSync } from "node:fs";
import { collectSentences, sentencesPage } from "./collect.ts";

/** Writes docs/sentences.md. Run by `npm run sentences`. */
writeFileSync(new URL("../../docs/sentences.md", import.meta.url), sentencesPage(collectSentences()));
console.log("docs/sentences.md written");
