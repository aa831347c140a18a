import * as P from "../../../generated/phasor.as";
import { baseFrequency, stepPhase, unsignedPhase } from "../../../kernels/phase.as";
import { rising } from "../../../kernels/edges.as";
import { add } from "../../../kernels/simd.as";

export function idle(): bool {
  return false;
}

export function compute(
  m: P.Module,
  state: P.State,
  out: P.Outputs,
  sync: v128,
  reset: v128,
  pitch: v128,
  tracking: v128,
  frequency: v128,
  frequencyFactor: v128,
  octave: v128,
  semitones: v128,
  fine: v128,
  hz: v128,
): void {
  const rises = v128.or(rising(state.beforeAt, sync), rising(state.resetBeforeAt, reset));
  const high = v128.andnot(state.high, rises),
    low = v128.andnot(state.low, rises);
  out.out = unsignedPhase(high);
  const base = baseFrequency(
    pitch,
    m.pitch.isCabled,
    tracking,
    frequency,
    frequencyFactor,
    octave,
    semitones,
    fine,
  );
  stepPhase(state.highAt, high, low, add(base, hz));
}
