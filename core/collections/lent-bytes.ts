/** Copies bytes, for whoever is to write into them. */
export type CopyBytes = (bytes: Uint8Array) => Uint8Array;

/** Copies that live as long as anybody holds them. */
export const sliced: CopyBytes = (bytes) => bytes.slice();

/**
 * Copies that are lent until they are taken back: the next ones are written over them, in memory that is there already. Each
 * is an array of its own, so that none is taken for one that stood there before.
 */
export class LentBytes {
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

  /** Takes all back: nobody may look at them from here on. */
  takeBack() {
    for (const shelf of this.shelves.values()) shelf.lent = 0;
  }
}
