import * as P from "../../../generated/multiply.as";
import { add, mul, splat, sub } from "../../../kernels/simd.as";

export function compute(depth: v128, b: v128, a: v128, level: v128): v128 {
  const gain = add(sub(splat(1), depth), mul(depth, b));
  return mul(mul(a, gain), level);
}
