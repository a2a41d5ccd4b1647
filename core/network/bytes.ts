/** Below so many bytes, views of them as words cost more than they save. */
const FEW = 512;

/** Positions at which two arrays of one length differ, ascending; from one place up to another where they are given. */
export function differing(a: Uint8Array, b: Uint8Array, from = 0, to = a.length): number[] {
  const list: number[] = [];
  if (a === b) return list;
  if (from > 0 || to < a.length || a.length < FEW) {
    for (let i = from; i < to; i++) if (a[i] !== b[i]) list.push(i);
    return list;
  }
  // Four at a time: nearly all are alike.
  const words = a.length >> 2;
  const [one, other] = [wordsOf(a, words), wordsOf(b, words)];
  for (let w = 0; w < words; w++) {
    if (one[w] === other[w]) continue;
    for (let i = w * 4; i < w * 4 + 4; i++) if (a[i] !== b[i]) list.push(i);
  }
  for (let i = words * 4; i < a.length; i++) if (a[i] !== b[i]) list.push(i);
  return list;
}

function wordsOf(bytes: Uint8Array, count: number): Int32Array {
  const aligned = bytes.byteOffset % 4 === 0 ? bytes : bytes.slice();
  return new Int32Array(aligned.buffer, aligned.byteOffset, count);
}
