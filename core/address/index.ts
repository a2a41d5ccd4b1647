export * from "./address.ts";
export * from "./prefix.ts";
export * from "./prefix-list.ts";
export * from "./prefix-set.ts";
export * from "./range-table.ts";
export * from "./special.ts";
export * from "./summarise.ts";
export * from "./text.ts";
