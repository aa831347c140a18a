import * as P from "../../../generated/button.as";
import { isOn, isZero, nextTrigger, rising, startTrigger, unmoved } from "../../../kernels/edges.as";
import { splat } from "../../../kernels/simd.as";

export function idle(m: P.Module, g: u32): bool {
  const state = m.state(g);
  return unmoved(state.beforeAt, m.on.at(g, 0)) && isZero(state.leftAt);
}

export function compute(m: P.Module, g: u32, f: u32): void {
  const state = m.state(g),
    on = m.on.at(g, f);
  startTrigger(state.leftAt, rising(state.beforeAt, on));
  m.outGate.put(g, f, v128.and(isOn(on), splat(1)));
  m.outTrigger.put(g, f, nextTrigger(state.leftAt));
}
