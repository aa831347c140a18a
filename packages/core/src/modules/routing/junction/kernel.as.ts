import * as P from "../../../generated/junction.as";
import { add, higher, madd, mul, splat, sub } from "../../../kernels/simd.as";

export function compute(m: P.Module, out: P.Outputs, left: v128, right: v128, reflection: v128): void {
  const k = reflection;
  if (m.form == P.FORM_PLAIN) {
    // One multiplication (Markel & Gray): d = k (left - right).
    const d = mul(k, sub(left, right));
    out.toright = add(left, d);
    out.toleft = add(right, d);
    return;
  }
  const through = f32x4.sqrt(higher(splat(0), sub(splat(1), mul(k, k))));
  out.toright = sub(mul(through, left), mul(k, right));
  out.toleft = madd(through, right, mul(k, left));
}
