import * as P from "../../../generated/route.as";
import { moveGains, selectStep, stepsUnmoved } from "../../../kernels/stepping.as";
import { mul } from "../../../kernels/simd.as";

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
  input: v128,
): void {
  const at = state.clockBeforeAt,
    step = selectStep(m, g, at, clock, reset, m.select.isCabled, select, m.steps, m.order);
  const gains = moveGains(at, step, fade);
  for (let n: u32 = 0; n < 8; ++n)
    m.signal(P.OUT_OUT1 + (n << 2)).put(g, f, mul(input, v128.load(gains + (n << 4))));
}
