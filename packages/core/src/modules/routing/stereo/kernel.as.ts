import * as P from "../../../generated/stereo.as";
import { add, madd, mul, select, sineOfCycles, splat } from "../../../kernels/simd.as";

/** Left and right exchanged in every voice. */
@inline function swapped(x: v128): v128 {
  return v128.shuffle<i32>(x, x, 1, 0, 3, 2);
}

export function compute(out: P.Outputs, input: v128, width: v128, rotate: v128, swap: v128): void {
  const sign = f32x4(1, -1, 1, -1);
  const mid = mul(splat(0.5), add(input, swapped(input)));
  const side = f32x4.sub(input, mid); // +s on the left, -s on the right
  out.mid = mid;
  out.side = mul(side, sign);
  const wide = madd(side, width, mid);
  // An eighth of a turn at 1; exactly nothing at 0.
  const turn = mul(rotate, splat(0.125));
  const cosine = sineOfCycles(f32x4.sub(splat(0.25), f32x4.abs(turn)));
  const turned = madd(mul(swapped(wide), sign), f32x4.neg(sineOfCycles(turn)), mul(wide, cosine));
  out.out = select(swapped(turned), turned, f32x4.gt(swap, splat(0.5)));
}
