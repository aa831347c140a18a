import * as P from "../../../generated/crossfade.as";
import { add, lower, madd, mul, sineOfCycles, splat, sub } from "../../../kernels/simd.as";

/** Gain at t = 0…1: exactly 0 and 1 at the ends. */
@inline function gainAt(law: i32, t: v128): v128 {
  if (law == P.LAW_EQUAL) return sineOfCycles(mul(t, splat(0.25)));
  return law == P.LAW_FULL ? lower(add(t, t), splat(1)) : t;
}

export function compute(m: P.Module, position: v128, a: v128, b: v128): v128 {
  const law = m.law;
  const t = madd(position, splat(0.5), splat(0.5));
  return add(mul(a, gainAt(law, sub(splat(1), t))), mul(b, gainAt(law, t)));
}
