import { LocatedJson } from "../located.ts";
import type { Reader } from "../reader.ts";
import { readDatastore } from "./datastore.ts";

/** The IETF's models as JSON (RFC 7951): whole datastores or parts. */
export const ietfJson: Reader = {
  kind: "IETF JSON",
  recognises: ({ text }) => (/^\s*\{[\s\S]{0,400}?"ietf-[a-z0-9-]+:/.test(text) ? 0.95 : 0),
  read(file, into) {
    const json = LocatedJson.read(file, into);
    if (!json) return;
    readDatastore(json.value, (path) => ({ file: file.name, ...json.place(path) }), into);
  },
};
