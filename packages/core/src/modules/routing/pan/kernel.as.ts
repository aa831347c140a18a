import * as P from "../../../generated/pan.as";
import { choiceOf, put, read } from "../../../kernels/instance.as";
import { madd, mul, sineOfCycles, splat } from "../../../kernels/simd.as";

export function compute(instance: usize, g: u32, f: u32): void {
  // Lanes are left, right, left, right.
  const side = mul(read(instance, P.PARAM_PAN, g, f), f32x4(-1, 1, -1, 1));
  const gain =
    choiceOf(instance, P.SET_LAW) == P.LAW_EQUAL
      ? sineOfCycles(madd(side, splat(0.125), splat(0.125)))
      : madd(side, splat(0.5), splat(0.5));
  put(instance, P.OUT_OUT, g, f, mul(read(instance, P.IN_IN, g, f), gain));
}
