import type { Check } from "../check.ts";
import { untranslated } from "../untranslated.ts";

/** Translation set up for one inside network and forgotten for another. */
export const translationMissing: Check = {
  code: "translation-missing",
  title: "Translation is missing for a network",
  consequence: "lost",
  severity: "error",
  run: (context) => untranslated(context, true),
};
