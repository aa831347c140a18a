// The curve of the contract, vectorised: f(x) = (1 - e^-kx) / (1 - e^-k), k = 6 curve.
import { div, exp2, mul, select, splat, sub } from "./simd.as";

const K: f32 = 8.656170245; // 6 / ln 2
/** Flatter curves than this are taken from the second-order series: the quotient would lose its digits. */
const FLAT: f32 = 0.02;

/** x in 0..1, curve -1..1. Error below 2e-5, exact at 0 and 1. */
export function curveOf(x: v128, curve: v128): v128 {
  const flat = f32x4.lt(f32x4.abs(curve), splat(FLAT));
  const k2 = mul(select(splat(0.5), curve, flat), splat(K));
  const whole = sub(splat(1), exp2(f32x4.neg(k2)));
  const bent = div(sub(splat(1), exp2(f32x4.neg(mul(k2, x)))), whole);
  // (1 - e^-kx) / (1 - e^-k) = x + k x (1 - x) / 2 + k^2 x (1 - x)(1 - 2x) / 12 + …
  const k = mul(curve, splat(6));
  const arch = mul(x, sub(splat(1), x));
  const series = f32x4.add(
    x,
    mul(mul(k, arch), f32x4.add(splat(0.5), mul(k, mul(sub(splat(1), f32x4.add(x, x)), splat(1.0 / 12.0))))),
  );
  return select(x, select(series, bent, flat), v128.or(f32x4.eq(x, splat(0)), f32x4.eq(x, splat(1))));
}
