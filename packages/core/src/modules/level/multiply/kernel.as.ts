import * as P from "../../../generated/multiply.as";
import { put, read } from "../../../kernels/instance.as";
import { add, mul, splat, sub } from "../../../kernels/simd.as";

export function compute(instance: usize, g: u32, f: u32): void {
  const depth = read(instance, P.PARAM_DEPTH, g, f);
  const gain = add(sub(splat(1), depth), mul(depth, read(instance, P.IN_B, g, f)));
  put(
    instance,
    P.OUT_OUT,
    g,
    f,
    mul(mul(read(instance, P.IN_A, g, f), gain), read(instance, P.PARAM_LEVEL, g, f)),
  );
}
