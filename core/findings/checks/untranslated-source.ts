import type { Check } from "../check.ts";
import { untranslated } from "../untranslated.ts";

/** A private source leaving untranslated by an exit that translates nothing. */
export const untranslatedSource: Check = {
  code: "untranslated-source",
  title: "A private source leaves untranslated",
  consequence: "lost",
  severity: "error",
  run: (context) => untranslated(context, false),
};
