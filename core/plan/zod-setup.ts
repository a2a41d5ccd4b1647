import { z } from "zod";

// In a browser the content policy forbids code that is made at run time, so Zod is told not to try it. This module is
// imported before any schema is made.
if ("document" in globalThis || "importScripts" in globalThis) z.config({ jitless: true });
