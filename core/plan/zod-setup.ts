import { z } from "zod";

// The content security policy of the browser forbids generated code, so Zod must not try it. Imported before any schema
// is created.
if ("document" in globalThis || "importScripts" in globalThis) z.config({ jitless: true });
