import { LocatedJson } from "../located.ts";
import type { Reader } from "../reader.ts";
import { readDatastore } from "./datastore.ts";

/** The IETF's models as JSON (RFC 7951): whole datastores or parts. */
export const ietfJson: Reader = {
  kind: "IETF JSON",
  recognises: ({ text }) => {
    const head = text.trimStart().slice(0, 500);
    return head.startsWith("{") && head.includes('"ietf-') ? 0.95 : 0;
  },
  read(file, into) {
    const json = LocatedJson.read(file, into);
    if (!json) return;
    readDatastore(json.value, (path) => ({ file: file.name, ...json.place(path) }), into);
  },
};
