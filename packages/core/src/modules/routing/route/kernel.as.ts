import * as P from "../../../generated/route.as";
import { moveGains, selectStep, stepsUnmoved } from "../../../kernels/stepping.as";
import { mul } from "../../../kernels/simd.as";


@inline function stepsOf(m: P.Module): i32 {
  return max(<i32>m.steps, 1);
}

export function idle(m: P.Module, g: u32): bool {
  return stepsUnmoved(
    m.state(g).clockBeforeAt,
    m.clock.at(g, 0),
    m.reset.at(g, 0),
    m.select.isCabled,
    m.select.at(g, 0),
    stepsOf(m),
  );
}

export function compute(m: P.Module, g: u32, f: u32): void {
  const state = m.state(g).clockBeforeAt,
    step = selectStep(
      m,
      g,
      state,
      m.clock.at(g, f),
      m.reset.at(g, f),
      m.select.isCabled,
      m.select.at(g, f),
      stepsOf(m),
      m.order,
    );
  const gains = moveGains(state, step, m.fade.at(g, f)),
    x = m.in.at(g, f);
  for (let n: u32 = 0; n < 8; ++n)
    m.signal(P.OUT_OUT1 + (n << 2)).put(g, f, mul(x, v128.load(gains + (n << 4))));
}
