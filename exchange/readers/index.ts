import { csvLists } from "./csv-lists.ts";
import { ietfJson } from "./ietf/json.ts";
import { ietfXml } from "./ietf/xml.ts";
import { iproute2Json } from "./iproute2/json.ts";
import { iproute2Text } from "./iproute2/text.ts";
import { nftJson } from "./nft/json.ts";
import { nftText } from "./nft/text.ts";
import type { InputFile, Reader } from "./reader.ts";
import { sysctl } from "./sysctl.ts";
import { anyTable } from "./text/table.ts";
import { numericWalk } from "./walk.ts";

export { Meanings } from "./meanings.ts";
export type { InputFile, ReaderOptions } from "./reader.ts";

/** What can be read, in the order of reading: interfaces before the routes that name them. */
export const readers: readonly Reader[] = [
  iproute2Json,
  ietfJson,
  ietfXml,
  nftJson,
  nftText,
  sysctl,
  numericWalk,
  csvLists,
  iproute2Text,
  anyTable,
];

/** The reader that recognizes a file by its content; null if none does. */
export function readerOf(file: InputFile): Reader | null {
  let best: Reader | null = null;
  let surest = 0;
  for (const reader of readers) {
    const sure = reader.recognises(file);
    if (sure > surest) {
      surest = sure;
      best = reader;
    }
  }
  return best;
}
