/**
 * Looks for text that cannot be kept: a zero byte, or half of a surrogate pair. Gives the path of the first, as keys
 * and positions; null where all text is well-formed. The value must not be nested deeper than `LIMITS.depth`.
 */
export function malformedText(value: unknown): PropertyKey[] | null {
  if (typeof value === "string") return isWellFormed(value) ? null : [];
  if (typeof value !== "object" || value === null) return null;
  if (Array.isArray(value)) {
    for (let n = 0; n < value.length; n++) {
      const found = malformedText(value[n]);
      if (found) return [n, ...found];
    }
    return null;
  }
  for (const key of Object.keys(value)) {
    if (!isWellFormed(key)) return [key];
    const found = malformedText((value as Record<string, unknown>)[key]);
    if (found) return [key, ...found];
  }
  return null;
}

/** Whether text has no zero byte and no half of a surrogate pair. */
export function isWellFormed(text: string): boolean {
  if (!/[\0\ud800-\udfff]/.test(text)) return true;
  return !/\0|[\ud800-\udbff](?![\udc00-\udfff])|(?<![\ud800-\udbff])[\udc00-\udfff]/.test(text);
}

/** Whether a value has more than `depth` nested objects and lists. */
export function isDeeperThan(value: unknown, depth: number): boolean {
  if (typeof value !== "object" || value === null) return false;
  if (depth === 0) return true;
  if (Array.isArray(value)) {
    for (let n = 0; n < value.length; n++) if (isDeeperThan(value[n], depth - 1)) return true;
    return false;
  }
  for (const key of Object.keys(value)) {
    if (isDeeperThan((value as Record<string, unknown>)[key], depth - 1)) return true;
  }
  return false;
}
