import * as P from "../../../generated/transient.as";
import { sampleRate } from "../../../kernels/time.as";
import { follow, paceOver } from "../../../kernels/detectors.as";
import { DB_PER_OCTAVE, gainOfDb } from "../../../kernels/levels.as";
import { isEmpty } from "../../../kernels/quiet.as";
import { add, clamp, higher, log2, mixed, mul, splat } from "../../../kernels/simd.as";

/** Time constants in seconds: rise and fall of the measures. */
const FAST_UP: f32 = 0.001,
  SLOW_UP: f32 = 0.02,
  SHARED_DOWN: f32 = 0.08,
  TAIL_DOWN: f32 = 0.5;
/** Gain at full settings. */
const MOST_DB: f32 = 15;

export function idle(m: P.Module, g: u32, input: v128): bool {
  return isEmpty(m.stateAt(g), 3) && !v128.any_true(input);
}

/** A measure that is below this has ended. */
const SILENCE: f32 = 1e-6;

/** Moves a measure towards a level. */
@inline function measure(at: usize, x: v128, up: f32, down: f32): v128 {
  return follow(at, x, paceOver(up, sampleRate), paceOver(down, sampleRate), SILENCE);
}


@inline function decibels(a: v128, b: v128): v128 {
  return mul(log2(f32x4.div(higher(a, splat(1e-5)), higher(b, splat(1e-5)))), splat(DB_PER_OCTAVE));
}

export function compute(state: P.State, input: v128, attack: v128, sustain: v128, mix: v128): v128 {
  const level = f32x4.abs(input);
  // The slow measures follow the fast one, so that all agree on a steady tone.
  const fast = measure(state.fastAt, level, FAST_UP, SHARED_DOWN),
    slow = measure(state.slowAt, fast, SLOW_UP, FAST_UP);
  const tail = measure(state.tailAt, fast, FAST_UP, TAIL_DOWN);
  // A hit ends the tail before it at once: what is there now counts, not what is still being measured.
  const begins = clamp(decibels(fast, slow), splat(0), splat(MOST_DB)),
    rings = clamp(decibels(tail, higher(fast, level)), splat(0), splat(MOST_DB));
  const gain = gainOfDb(add(mul(begins, attack), mul(rings, sustain)));
  return mixed(input, mul(input, gain), mix);
}
