/** Below this size in bytes, word views cost more than they save. */
const FEW = 512;

/** Positions at which two arrays of one length differ, ascending, optionally within a range. */
export function differing(a: Uint8Array, b: Uint8Array, from = 0, to = a.length): readonly number[] {
  if (a === b) return nowhere;
  // Made when the first is found: mostly there is none.
  let list: number[] | null = null;
  const whole = from === 0 && to === a.length && a.length >= FEW;
  // Four at a time: nearly all are alike.
  const words = whole ? a.length >> 2 : 0;
  if (words) {
    const [one, other] = [wordsOf(a, words), wordsOf(b, words)];
    for (let w = 0; w < words; w++) {
      if (one[w] === other[w]) continue;
      list ??= [];
      for (let i = w * 4; i < w * 4 + 4; i++) if (a[i] !== b[i]) list.push(i);
    }
  }
  for (let i = whole ? words * 4 : from; i < to; i++) {
    if (a[i] === b[i]) continue;
    list ??= [];
    list.push(i);
  }
  return list ?? nowhere;
}

const nowhere: readonly number[] = [];

function wordsOf(bytes: Uint8Array, count: number): Int32Array {
  const aligned = bytes.byteOffset % 4 === 0 ? bytes : bytes.slice();
  return new Int32Array(aligned.buffer, aligned.byteOffset, count);
}
