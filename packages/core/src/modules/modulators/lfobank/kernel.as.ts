import * as P from "../../../generated/lfobank.as";
import { rising } from "../../../kernels/edges.as";
import { fixedCycles, signedPhase, stepPhase, unsignedPhase } from "../../../kernels/phase.as";
import { madd, mul, splat } from "../../../kernels/simd.as";
import { shapeAt } from "../../../kernels/waves.as";

const OUTPUTS: u32 = 8;

export function idle(m: P.Module, g: u32): bool {
  return false;
}

export function compute(m: P.Module, g: u32, f: u32): void {
  const state = m.state(g);
  const rises = rising(state.beforeAt, m.reset.at(g, f));
  const ratio = m.ratio.at(g, f),
    spread = m.spread.at(g, f),
    gain = m.level.at(g, f);
  const shape = <u32>m.shape,
    unipolar = m.polarity == P.POLARITY_UNIPOLAR;
  let rate = m.rate.at(g, f);
  for (let n: u32 = 0; n < OUTPUTS; ++n) {
    const at = state.phasesAt + (n << 5);
    const high = v128.andnot(v128.load(at), rises),
      low = v128.andnot(v128.load(at, 16), rises);
    if (m.signal(P.OUT_OUT1 + (n << 2)).isWanted) {
      const phase = i32x4.add(high, fixedCycles(mul(spread, splat(<f32>n / 8))));
      let y = shapeAt(shape, signedPhase(phase), unsignedPhase(phase), splat(0.5));
      if (unipolar) y = madd(y, splat(0.5), splat(0.5));
      m.signal(P.OUT_OUT1 + (n << 2)).put(g, f, mul(gain, y));
    }
    stepPhase(at, high, low, rate);
    rate = mul(rate, ratio);
  }
}
