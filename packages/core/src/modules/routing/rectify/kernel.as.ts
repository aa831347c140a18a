import * as P from "../../../generated/rectify.as";
import { higher, lower, splat } from "../../../kernels/simd.as";

export function compute(out: P.Outputs, input: v128): void {
  out.full = f32x4.abs(input);
  out.positive = higher(splat(0), input);
  out.negative = lower(splat(0), input);
}
