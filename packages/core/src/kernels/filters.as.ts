// Pieces of filters: the prewarped coefficient, and one state-variable section in the trapezoidal form.
import { add, at, clamp, div, madd, mul, splat, sub } from "./simd.as";

/** pi/2, and the coefficients of the continued fraction of the tangent. */
const TANGENT: usize = memory.data<f32>([1.5707963268, 105, 945, 15, 420, 1], 16);
const HIGHEST: f32 = 0.495;

/** tan(pi u), u = frequency / sample rate, limited below Nyquist. Relative error below 1e-6. */
export function tangentOfShare(u: v128): v128 {
  const y = mul(clamp(u, splat(1e-6), splat(HIGHEST)), at(TANGENT, 0));
  const y2 = mul(y, y);
  const n = mul(y, madd(sub(y2, at(TANGENT, 1)), y2, at(TANGENT, 2)));
  const d = madd(sub(mul(y2, at(TANGENT, 3)), at(TANGENT, 4)), y2, at(TANGENT, 2));
  return div(mul(add(n, n), d), mul(sub(d, n), add(d, n)));
}

/** Band output, before its damping, of a state-variable section: g = tan(pi f / rate), k = 1 / Q; two states at `state`. */
@inline export function bandOf(state: usize, x: v128, g: v128, k: v128): v128 {
  const a1 = div(splat(1), madd(g, add(g, k), splat(1)));
  return mul(a1, madd(g, sub(x, v128.load(state, 16)), v128.load(state)));
}
/** Its low output, and the section's way on to the next sample. */
@inline export function lowOf(state: usize, band: v128, g: v128): v128 {
  const two = v128.load(state, 16),
    low = madd(g, band, two);
  v128.store(state, sub(add(band, band), v128.load(state)));
  v128.store(state, sub(add(low, low), two), 16);
  return low;
}
