import * as P from "../../../generated/rectify.as";
import { put, read } from "../../../kernels/instance.as";
import { higher, lower, splat } from "../../../kernels/simd.as";

export function compute(instance: usize, g: u32, f: u32): void {
  const x = read(instance, P.IN_IN, g, f);
  put(instance, P.OUT_FULL, g, f, f32x4.abs(x));
  put(instance, P.OUT_POSITIVE, g, f, higher(splat(0), x));
  put(instance, P.OUT_NEGATIVE, g, f, lower(splat(0), x));
}
