import * as P from "../../../generated/multiply.as";
import { add, mul, splat, sub } from "../../../kernels/simd.as";

export function compute(m: P.Module, g: u32, f: u32): void {
  const depth = m.depth.at(g, f);
  const gain = add(sub(splat(1), depth), mul(depth, m.b.at(g, f)));
  m.outOut.put(g, f, mul(mul(m.a.at(g, f), gain), m.level.at(g, f)));
}
