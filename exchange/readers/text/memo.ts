/** A function of a text that remembers its results: for what is asked of the same text again and again. */
export function memo<T>(make: (text: string) => T): (text: string) => T {
  const known = new Map<string, T>();
  return (text) => {
    if (!known.has(text)) known.set(text, make(text));
    return known.get(text) as T;
  };
}
