// What the cost of modules is counted in: a fixed piece of work of the kind they do, timed in the same run. Not to be
// changed: every `bound` in a description is a multiple of it.
import { BLOCK_FRAMES } from "./abi";
import { add, madd, mul, splat, sub } from "./simd.as";

const row: usize = memory.data(16 * 128, 16);

/** Two state-variable sections with fixed coefficients, side by side, over a block: eight voice-samples a frame. */
export function referenceBlock(): void {
  const g = splat(0.1),
    a = splat(0.86),
    x = splat(0.5);
  let one = splat(0),
    two = splat(0),
    three = splat(0),
    four = splat(0);
  for (let p = row, end = row + (BLOCK_FRAMES << 4); p < end; p += 16) {
    const v1 = mul(a, madd(g, sub(x, two), one)),
      w1 = mul(a, madd(g, sub(v1, four), three)),
      v2 = madd(g, v1, two),
      w2 = madd(g, w1, four);
    one = sub(add(v1, v1), one);
    two = sub(add(v2, v2), two);
    three = sub(add(w1, w1), three);
    four = sub(add(w2, w2), four);
    v128.store(p, add(v2, w2));
  }
}
