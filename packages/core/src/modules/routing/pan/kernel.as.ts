import * as P from "../../../generated/pan.as";
import { madd, mul, sineOfCycles, splat } from "../../../kernels/simd.as";

export function compute(m: P.Module, g: u32, f: u32): void {
  // Lanes are left, right, left, right.
  const side = mul(m.pan.at(g, f), f32x4(-1, 1, -1, 1));
  const gain =
    m.law == P.LAW_EQUAL
      ? sineOfCycles(madd(side, splat(0.125), splat(0.125)))
      : madd(side, splat(0.5), splat(0.5));
  m.outOut.put(g, f, mul(m.in.at(g, f), gain));
}
