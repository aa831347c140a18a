import * as P from "../../../generated/button.as";
import { isOn, isZero, nextTrigger, rising, startTrigger, unmoved } from "../../../kernels/edges.as";
import { splat } from "../../../kernels/simd.as";

export function idle(state: P.State, on: v128): bool {
  return unmoved(state.beforeAt, on) && isZero(state.leftAt);
}

export function compute(state: P.State, out: P.Outputs, on: v128): void {
  startTrigger(state.leftAt, rising(state.beforeAt, on));
  out.gate = v128.and(isOn(on), splat(1));
  out.trigger = nextTrigger(state.leftAt);
}
