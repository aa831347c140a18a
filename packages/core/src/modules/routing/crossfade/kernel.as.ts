import * as P from "../../../generated/crossfade.as";
import { choiceOf, put, read } from "../../../kernels/instance.as";
import { add, lower, madd, mul, sineOfCycles, splat, sub } from "../../../kernels/simd.as";

/** Gain at t = 0…1: exactly 0 and 1 at the ends. */
// @ts-ignore: decorator
@inline function gainAt(law: i32, t: v128): v128 {
  if (law == P.LAW_EQUAL) return sineOfCycles(mul(t, splat(0.25)));
  return law == P.LAW_FULL ? lower(add(t, t), splat(1)) : t;
}

export function compute(instance: usize, g: u32, f: u32): void {
  const law = choiceOf(instance, P.SET_LAW);
  const t = madd(read(instance, P.PARAM_POSITION, g, f), splat(0.5), splat(0.5));
  put(
    instance,
    P.OUT_OUT,
    g,
    f,
    add(
      mul(read(instance, P.IN_A, g, f), gainAt(law, sub(splat(1), t))),
      mul(read(instance, P.IN_B, g, f), gainAt(law, t)),
    ),
  );
}
