import * as P from "../../../generated/map.as";
import { put, read } from "../../../kernels/instance.as";
import { curveOf } from "../../../kernels/curves.as";
import { add, clamp, div, madd, select, splat, sub } from "../../../kernels/simd.as";

export function compute(instance: usize, g: u32, f: u32): void {
  const low = read(instance, P.PARAM_INLOW, g, f),
    high = read(instance, P.PARAM_INHIGH, g, f);
  const outLow = read(instance, P.PARAM_OUTLOW, g, f),
    outHigh = read(instance, P.PARAM_OUTHIGH, g, f);
  const width = sub(high, low);
  const has = f32x4.ne(width, splat(0));
  // Ends that meet are a step.
  const x = select(
    div(sub(read(instance, P.IN_IN, g, f), low), select(width, splat(1), has)),
    v128.and(f32x4.ge(read(instance, P.IN_IN, g, f), low), splat(1)),
    has,
  );
  const inside = clamp(x, splat(0), splat(1));
  const bent = curveOf(inside, read(instance, P.PARAM_CURVE, g, f));
  const beyond = select(splat(0), sub(x, inside), f32x4.gt(read(instance, P.PARAM_CLAMP, g, f), splat(0.5)));
  put(instance, P.OUT_OUT, g, f, madd(add(bent, beyond), sub(outHigh, outLow), outLow));
}
