import * as P from "../../../generated/junction.as";
import { choiceOf, put, read } from "../../../kernels/instance.as";
import { add, higher, madd, mul, splat, sub } from "../../../kernels/simd.as";

export function compute(instance: usize, g: u32, f: u32): void {
  const left = read(instance, P.IN_LEFT, g, f),
    right = read(instance, P.IN_RIGHT, g, f),
    k = read(instance, P.PARAM_REFLECTION, g, f);
  if (choiceOf(instance, P.SET_FORM) == P.FORM_PLAIN) {
    // One multiplication (Markel & Gray): d = k (left - right).
    const d = mul(k, sub(left, right));
    put(instance, P.OUT_TORIGHT, g, f, add(left, d));
    put(instance, P.OUT_TOLEFT, g, f, add(right, d));
    return;
  }
  const through = f32x4.sqrt(higher(splat(0), sub(splat(1), mul(k, k))));
  put(instance, P.OUT_TORIGHT, g, f, sub(mul(through, left), mul(k, right)));
  put(instance, P.OUT_TOLEFT, g, f, madd(through, right, mul(k, left)));
}
