import * as P from "../../../generated/stereo.as";
import { add, madd, mul, select, sineOfCycles, splat } from "../../../kernels/simd.as";

/** Left and right exchanged in every voice. */
@inline function swapped(x: v128): v128 {
  return v128.shuffle<i32>(x, x, 1, 0, 3, 2);
}

export function compute(m: P.Module, g: u32, f: u32): void {
  const x = m.in.at(g, f),
    sign = f32x4(1, -1, 1, -1);
  const mid = mul(splat(0.5), add(x, swapped(x)));
  const side = f32x4.sub(x, mid); // +s on the left, -s on the right
  m.outMid.put(g, f, mid);
  m.outSide.put(g, f, mul(side, sign));
  const wide = madd(side, m.width.at(g, f), mid);
  // An eighth of a turn at 1; exactly nothing at 0.
  const turn = mul(m.rotate.at(g, f), splat(0.125));
  const cosine = sineOfCycles(f32x4.sub(splat(0.25), f32x4.abs(turn)));
  const turned = madd(mul(swapped(wide), sign), f32x4.neg(sineOfCycles(turn)), mul(wide, cosine));
  m.outOut.put(g, f, select(swapped(turned), turned, f32x4.gt(m.swap.at(g, f), splat(0.5))));
}
