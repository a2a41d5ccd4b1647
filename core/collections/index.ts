/** Containers that know nothing of networks. */
export { Block } from "./block.ts";
export { BytePool, type CopyBytes, sliced } from "./byte-pool.ts";
export { differing } from "./bytes.ts";
export { addTo } from "./lists.ts";
export { Marks } from "./marks.ts";
export { NumberLists } from "./number-lists.ts";
export { onceFor } from "./once-for.ts";
export { orderOf } from "./ordering.ts";
