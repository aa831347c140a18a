import * as P from "../../../generated/curve.as";
import { lookUpPoints } from "../../../kernels/points.as";
import { clamp, madd, splat } from "../../../kernels/simd.as";

const RESOLUTION: f32 = 1024;

export function compute(m: P.Module, input: v128): v128 {
  const x = clamp(madd(input, splat(RESOLUTION / 2), splat(RESOLUTION / 2)), splat(0), splat(RESOLUTION));
  return lookUpPoints(m.table, x);
}
