/** Copies bytes, for whoever is to write into them. */
export type CopyBytes = (bytes: Uint8Array) => Uint8Array;

/** Copies that live as long as anybody holds them. */
export const sliced: CopyBytes = (bytes) => bytes.slice();

/** Reusable copies: `takeBack` returns all of them, and later copies overwrite their memory. Each copy is a separate
 * array object, so caches keyed by object never confuse two of them. */
export class BytePool {
  private readonly shelves = new Map<number, { readonly memory: ArrayBuffer[]; lent: number }>();

  readonly copy: CopyBytes = (bytes) => {
    const { length } = bytes;
    let shelf = this.shelves.get(length);
    if (!shelf) {
      shelf = { memory: [], lent: 0 };
      this.shelves.set(length, shelf);
    }
    if (shelf.lent === shelf.memory.length) shelf.memory.push(new ArrayBuffer(length));
    const copy = new Uint8Array(shelf.memory[shelf.lent++]);
    copy.set(bytes);
    return copy;
  };

  /** Returns all copies to the pool. Callers must not read them afterwards. */
  takeBack() {
    for (const shelf of this.shelves.values()) shelf.lent = 0;
  }
}
