import * as P from "../../../generated/phasor.as";
import { isCabled, put, read, signalAt, stateOf } from "../../../kernels/instance.as";
import { baseFrequency, stepPhase, unsignedPhase } from "../../../kernels/phase.as";
import { rising } from "../../../kernels/edges.as";
import { add } from "../../../kernels/simd.as";

export function idle(instance: usize, g: u32): bool {
  return false;
}

export function compute(instance: usize, g: u32, f: u32): void {
  const state = stateOf(instance, g);
  const rises = v128.or(
    rising(state + P.STATE_BEFORE, read(instance, P.IN_SYNC, g, f)),
    rising(state + P.STATE_RESETBEFORE, read(instance, P.IN_RESET, g, f)),
  );
  const high = v128.andnot(v128.load(state + P.STATE_HIGH), rises),
    low = v128.andnot(v128.load(state + P.STATE_LOW), rises);
  put(instance, P.OUT_OUT, g, f, unsignedPhase(high));
  const base = baseFrequency(
    read(instance, P.IN_PITCH, g, f),
    isCabled(signalAt(instance, P.IN_PITCH)),
    read(instance, P.PARAM_TRACKING, g, f),
    read(instance, P.PARAM_FREQUENCY, g, f),
    read(instance, P.FACTOR_FREQUENCY, g, f),
    read(instance, P.PARAM_OCTAVE, g, f),
    read(instance, P.PARAM_SEMITONES, g, f),
    read(instance, P.PARAM_FINE, g, f),
  );
  stepPhase(state + P.STATE_HIGH, high, low, add(base, read(instance, P.IN_HZ, g, f)));
}
