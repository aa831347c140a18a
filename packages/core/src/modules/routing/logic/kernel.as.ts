import * as P from "../../../generated/logic.as";
import { isOn, rising, unmoved } from "../../../kernels/edges.as";
import { splat } from "../../../kernels/simd.as";

export function idle(state: P.State, a: v128): bool {
  return unmoved(state.beforeAt, a);
}

export function compute(state: P.State, out: P.Outputs, a: v128, b: v128): void {
  const aOn = isOn(a),
    bOn = isOn(b),
    one = splat(1);
  const flipped = v128.xor(state.flipped, rising(state.beforeAt, a));
  state.flipped = flipped;
  out.and = v128.and(v128.and(aOn, bOn), one);
  out.or = v128.and(v128.or(aOn, bOn), one);
  out.xor = v128.and(v128.xor(aOn, bOn), one);
  out.not = v128.andnot(one, aOn);
  out.flip = v128.and(flipped, one);
}
