import * as P from "../../../generated/lfobank.as";
import { rising } from "../../../kernels/edges.as";
import { choiceOf, isWanted, put, read, signalAt, stateOf } from "../../../kernels/instance.as";
import { fixedCycles, signedPhase, stepPhase, unsignedPhase } from "../../../kernels/phase.as";
import { madd, mul, splat } from "../../../kernels/simd.as";
import { shapeAt } from "../../../kernels/waves.as";

const OUTPUTS: u32 = 8;

export function idle(instance: usize, g: u32): bool {
  return false;
}

export function compute(instance: usize, g: u32, f: u32): void {
  const state = stateOf(instance, g);
  const rises = rising(state + P.STATE_BEFORE, read(instance, P.IN_RESET, g, f));
  const ratio = read(instance, P.PARAM_RATIO, g, f),
    spread = read(instance, P.PARAM_SPREAD, g, f),
    gain = read(instance, P.PARAM_LEVEL, g, f);
  const shape = <u32>choiceOf(instance, P.SET_SHAPE),
    unipolar = choiceOf(instance, P.SET_POLARITY) == P.POLARITY_UNIPOLAR;
  let rate = read(instance, P.PARAM_RATE, g, f);
  for (let n: u32 = 0; n < OUTPUTS; ++n) {
    const at = state + P.STATE_PHASES + (n << 5);
    const high = v128.andnot(v128.load(at), rises),
      low = v128.andnot(v128.load(at, 16), rises);
    if (isWanted(signalAt(instance, P.OUT_OUT1 + (n << 2)))) {
      const phase = i32x4.add(high, fixedCycles(mul(spread, splat(<f32>n / 8))));
      let y = shapeAt(shape, signedPhase(phase), unsignedPhase(phase), splat(0.5));
      if (unipolar) y = madd(y, splat(0.5), splat(0.5));
      put(instance, P.OUT_OUT1 + (n << 2), g, f, mul(gain, y));
    }
    stepPhase(at, high, low, rate);
    rate = mul(rate, ratio);
  }
}
