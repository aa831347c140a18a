import * as P from "../../../generated/phasor.as";
import { baseFrequency, stepPhase, unsignedPhase } from "../../../kernels/phase.as";
import { rising } from "../../../kernels/edges.as";
import { add } from "../../../kernels/simd.as";

export function idle(m: P.Module, g: u32): bool {
  return false;
}

export function compute(m: P.Module, g: u32, f: u32): void {
  const state = m.state(g);
  const rises = v128.or(
    rising(state.beforeAt, m.sync.at(g, f)),
    rising(state.resetBeforeAt, m.reset.at(g, f)),
  );
  const high = v128.andnot(state.high, rises),
    low = v128.andnot(state.low, rises);
  m.outOut.put(g, f, unsignedPhase(high));
  const base = baseFrequency(
    m.pitch.at(g, f),
    m.pitch.isCabled,
    m.tracking.at(g, f),
    m.frequency.at(g, f),
    m.frequencyFactor.at(g, f),
    m.octave.at(g, f),
    m.semitones.at(g, f),
    m.fine.at(g, f),
  );
  stepPhase(state.highAt, high, low, add(base, m.hz.at(g, f)));
}
