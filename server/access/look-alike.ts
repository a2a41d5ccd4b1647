import unhomoglyph from "unhomoglyph";

/**
 * Whether two names can be taken for one another: they differ in case, in spaces, in characters that are not shown, or in
 * characters that look the same (Unicode Technical Standard 39, by the package's table of confusable characters).
 */
export function lookAlike(a: string, b: string): boolean {
  return skeletonOf(a) === skeletonOf(b);
}

function skeletonOf(name: string): string {
  const shown = name.normalize("NFKC").replace(/[\p{Cf}\p{Mn}\s]/gu, "");
  // Letters of either case have looks of their own: "I" is a small "l", and a small "i" is none.
  return unhomoglyph(unhomoglyph(shown).toLowerCase()).normalize("NFKC").toLowerCase();
}
