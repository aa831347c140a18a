import * as P from "../../../generated/button.as";
import { isOn, isZero, nextTrigger, rising, startTrigger, unmoved } from "../../../kernels/edges.as";
import { put, read, stateOf } from "../../../kernels/instance.as";
import { splat } from "../../../kernels/simd.as";

export function idle(instance: usize, g: u32): bool {
  const state = stateOf(instance, g);
  return unmoved(state + P.STATE_BEFORE, read(instance, P.PARAM_ON, g, 0)) && isZero(state + P.STATE_LEFT);
}

export function compute(instance: usize, g: u32, f: u32): void {
  const state = stateOf(instance, g),
    on = read(instance, P.PARAM_ON, g, f);
  startTrigger(state + P.STATE_LEFT, rising(state + P.STATE_BEFORE, on));
  put(instance, P.OUT_GATE, g, f, v128.and(isOn(on), splat(1)));
  put(instance, P.OUT_TRIGGER, g, f, nextTrigger(state + P.STATE_LEFT));
}
