/** A datastore, or a part of one, as plain objects: names without their module, lists as arrays. */
export type Tree = { readonly [name: string]: unknown };

const isTree = (value: unknown): value is Tree =>
  typeof value === "object" && value !== null && !Array.isArray(value);

/** The value under a name, regardless of its module prefix. */
export function child(tree: unknown, name: string): unknown {
  if (!isTree(tree)) return undefined;
  for (const [key, value] of Object.entries(tree)) if (key.slice(key.indexOf(":") + 1) === name) return value;
  return undefined;
}

export function list(tree: unknown, name: string): unknown[] {
  const value = child(tree, name);
  return Array.isArray(value) ? value : value === undefined ? [] : [value];
}

export function text(tree: unknown, name: string): string | null {
  const value = child(tree, name);
  return typeof value === "string" || typeof value === "number" || typeof value === "boolean"
    ? String(value)
    : null;
}
