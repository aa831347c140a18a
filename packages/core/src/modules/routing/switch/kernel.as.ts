import * as P from "../../../generated/switch.as";
import { moveGains, selectStep, stepsUnmoved } from "../../../kernels/stepping.as";
import { madd, splat } from "../../../kernels/simd.as";

export function idle(m: P.Module, state: P.State, clock: v128, reset: v128, select: v128): bool {
  return stepsUnmoved(state.clockBeforeAt, clock, reset, m.select.isCabled, select, m.steps);
}

export function compute(
  m: P.Module,
  g: u32,
  f: u32,
  state: P.State,
  clock: v128,
  reset: v128,
  select: v128,
  fade: v128,
): v128 {
  const at = state.clockBeforeAt,
    step = selectStep(m, g, at, clock, reset, m.select.isCabled, select, m.steps, m.order);
  const gains = moveGains(at, step, fade);
  let y = splat(0);
  for (let n: u32 = 0; n < 8; ++n) {
    const gain = v128.load(gains + (n << 4));
    if (v128.any_true(gain)) y = madd(gain, m.signal(P.IN_IN1 + (n << 2)).at(g, f), y);
  }
  return y;
}
