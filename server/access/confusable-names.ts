import unhomoglyph from "unhomoglyph";

/**
 * Whether two names can be taken for one another: they differ in case, in spaces, in characters that are not shown, or in
 * characters that look the same (Unicode Technical Standard 39, by the package's table of confusable characters).
 */
export function isConfusable(a: string, b: string): boolean {
  const own = skeletonsOf(a);
  return skeletonsOf(b).some((skeleton) => own.includes(skeleton));
}

/** A name as it looks, in its own letters, in small ones and in capitals: "I" looks like a small "l", and "i" does not. */
function skeletonsOf(name: string): string[] {
  const shown = name.normalize("NFKC").replace(/[\p{Cf}\p{Mn}\s]/gu, "");
  return [shown, shown.toLowerCase(), shown.toUpperCase()].map((text) =>
    unhomoglyph(unhomoglyph(text).toLowerCase()).normalize("NFKC").toLowerCase(),
  );
}
