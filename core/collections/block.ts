/**
 * Arrays of numbers side by side in one piece of memory: to ask for many small ones takes longer than to fill them. Those of
 * wider numbers are taken first, so that each lies where its numbers may.
 */
export class Block {
  private readonly memory: ArrayBuffer;
  private used = 0;

  /** `size` in bytes: of all that will be taken. */
  constructor(size: number) {
    this.memory = new ArrayBuffer(size);
  }

  floats(count: number): Float64Array {
    return new Float64Array(this.memory, this.next(8 * count), count);
  }

  words(count: number): Uint32Array {
    return new Uint32Array(this.memory, this.next(4 * count), count);
  }

  ints(count: number): Int32Array {
    return new Int32Array(this.memory, this.next(4 * count), count);
  }

  bytes(count: number): Uint8Array {
    return new Uint8Array(this.memory, this.next(count), count);
  }

  signedBytes(count: number): Int8Array {
    return new Int8Array(this.memory, this.next(count), count);
  }

  private next(size: number): number {
    const at = this.used;
    this.used += size;
    return at;
  }
}
