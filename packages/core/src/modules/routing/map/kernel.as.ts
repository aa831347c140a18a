import * as P from "../../../generated/map.as";
import { curveOf } from "../../../kernels/curves.as";
import { add, clamp as limited, div, madd, select, splat, sub } from "../../../kernels/simd.as";

export function compute(
  inLow: v128,
  inHigh: v128,
  outLow: v128,
  outHigh: v128,
  input: v128,
  curve: v128,
  clamp: v128,
): v128 {
  const width = sub(inHigh, inLow);
  const has = f32x4.ne(width, splat(0));
  // Ends that meet are a step.
  const x = select(
    div(sub(input, inLow), select(width, splat(1), has)),
    v128.and(f32x4.ge(input, inLow), splat(1)),
    has,
  );
  const inside = limited(x, splat(0), splat(1));
  const bent = curveOf(inside, curve);
  const beyond = select(splat(0), sub(x, inside), f32x4.gt(clamp, splat(0.5)));
  return madd(add(bent, beyond), sub(outHigh, outLow), outLow);
}
