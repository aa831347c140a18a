import * as P from "../../../generated/lfobank.as";
import { rising } from "../../../kernels/edges.as";
import { fixedCycles, signedPhase, stepPhase, unsignedPhase } from "../../../kernels/phase.as";
import { madd, mul, splat } from "../../../kernels/simd.as";
import { shapeAt } from "../../../kernels/waves.as";

const OUTPUTS: u32 = 8;

export function idle(): bool {
  return false;
}

export function compute(
  m: P.Module,
  g: u32,
  f: u32,
  state: P.State,
  reset: v128,
  ratio: v128,
  spread: v128,
  level: v128,
  rate: v128,
): void {
  const rises = rising(state.beforeAt, reset);
  const gain = level;
  const shape = <u32>m.shape,
    unipolar = m.polarity == P.POLARITY_UNIPOLAR;
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
