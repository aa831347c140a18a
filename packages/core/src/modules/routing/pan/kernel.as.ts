import * as P from "../../../generated/pan.as";
import { madd, mul, sineOfCycles, splat } from "../../../kernels/simd.as";

export function compute(m: P.Module, pan: v128, input: v128): v128 {
  // Lanes are left, right, left, right.
  const side = mul(pan, f32x4(-1, 1, -1, 1));
  const gain =
    m.law == P.LAW_EQUAL
      ? sineOfCycles(madd(side, splat(0.125), splat(0.125)))
      : madd(side, splat(0.5), splat(0.5));
  return mul(input, gain);
}
