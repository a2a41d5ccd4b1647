/** Below so many, sorting by comparison is as fast. */
const FEW = 512;
const DIGIT_BITS = 11;
const DIGITS = 1 << DIGIT_BITS;

/**
 * The positions of keys in ascending order, equal ones in the order in which they stand (least significant digit radix
 * sort). Keys are whole numbers from 0 to 2^53. Time O(n).
 */
export function orderOf(keys: Float64Array): Uint32Array {
  const { length } = keys;
  let order = Uint32Array.from(keys, (_, i) => i);
  if (length < FEW) return order.sort((a, b) => keys[a] - keys[b] || a - b);
  let spare = new Uint32Array(length);
  const digits = new Uint16Array(length);
  const most = keys.reduce((a, b) => Math.max(a, b), 0);
  for (let unit = 1; unit <= most; unit *= DIGITS) {
    const starts = new Uint32Array(DIGITS + 1);
    for (let i = 0; i < length; i++) {
      digits[i] = Math.floor(keys[i] / unit) % DIGITS;
      starts[digits[i] + 1]++;
    }
    for (let d = 0; d < DIGITS; d++) starts[d + 1] += starts[d];
    for (let n = 0; n < length; n++) spare[starts[digits[order[n]]]++] = order[n];
    [order, spare] = [spare, order];
  }
  return order;
}
