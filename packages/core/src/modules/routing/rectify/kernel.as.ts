import * as P from "../../../generated/rectify.as";
import { higher, lower, splat } from "../../../kernels/simd.as";

export function compute(m: P.Module, g: u32, f: u32): void {
  const x = m.in.at(g, f);
  m.outFull.put(g, f, f32x4.abs(x));
  m.outPositive.put(g, f, higher(splat(0), x));
  m.outNegative.put(g, f, lower(splat(0), x));
}
