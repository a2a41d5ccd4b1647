/** Memoizes a function per argument object; the result lives as long as the argument. */
export function onceFor<K extends object, V>(make: (key: K) => V): (key: K) => V {
  const known = new WeakMap<K, { readonly made: V }>();
  return (key) => {
    let found = known.get(key);
    if (!found) {
      found = { made: make(key) };
      known.set(key, found);
    }
    return found.made;
  };
}
