/** Below this count, insertion sort. */
const FEW = 48;
/** Below this count, comparison sort is as fast as radix sort. */
const MANY = 192;
const DIGIT_BITS = 11;
const DIGITS = 1 << DIGIT_BITS;

/**
 * The positions of keys in ascending order, equal ones in the order in which they stand (least significant digit radix
 * sort). Keys are whole numbers from 0 to 2^53. Time O(n).
 */
export function orderOf(keys: Float64Array): Uint32Array {
  const { length } = keys;
  let order = new Uint32Array(length);
  for (let i = 0; i < length; i++) order[i] = i;
  if (length < FEW) return insertedInto(order, keys);
  if (length < MANY) return order.sort((a, b) => keys[a] - keys[b] || a - b);
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

/** Sorts by insertion, which takes little where most stand in order. */
function insertedInto(order: Uint32Array, keys: Float64Array): Uint32Array {
  for (let n = 1; n < order.length; n++) {
    const one = order[n];
    let at = n;
    for (; at > 0 && keys[order[at - 1]] > keys[one]; at--) order[at] = order[at - 1];
    order[at] = one;
  }
  return order;
}
