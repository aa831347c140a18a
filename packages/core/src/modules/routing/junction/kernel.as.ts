import * as P from "../../../generated/junction.as";
import { add, higher, madd, mul, splat, sub } from "../../../kernels/simd.as";

export function compute(m: P.Module, g: u32, f: u32): void {
  const left = m.left.at(g, f),
    right = m.right.at(g, f),
    k = m.reflection.at(g, f);
  if (m.form == P.FORM_PLAIN) {
    // One multiplication (Markel & Gray): d = k (left - right).
    const d = mul(k, sub(left, right));
    m.outToright.put(g, f, add(left, d));
    m.outToleft.put(g, f, add(right, d));
    return;
  }
  const through = f32x4.sqrt(higher(splat(0), sub(splat(1), mul(k, k))));
  m.outToright.put(g, f, sub(mul(through, left), mul(k, right)));
  m.outToleft.put(g, f, madd(through, right, mul(k, left)));
}
