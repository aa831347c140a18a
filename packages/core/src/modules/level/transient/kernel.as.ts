import * as P from "../../../generated/transient.as";
import { sampleRate } from "../../../kernels/time.as";
import { DB_PER_OCTAVE, gainOfDb } from "../../../kernels/levels.as";
import { isEmpty } from "../../../kernels/quiet.as";
import { add, clamp, higher, log2, madd, mixed, mul, select, splat, sub } from "../../../kernels/simd.as";

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

/** Moves a measure towards x at one pace up and another down; 1 - e^-x is x for such short frames, to a part in fifty. */
@inline function follow(at: usize, x: v128, up: f32, down: f32): v128 {
  const now = v128.load(at);
  const pace = select(splat(1 / (1 + up * sampleRate)), splat(1 / (1 + down * sampleRate)), f32x4.gt(x, now));
  const y = madd(sub(x, now), pace, now);
  const next = v128.and(y, f32x4.gt(y, splat(1e-6)));
  v128.store(at, next);
  return next;
}


@inline function decibels(a: v128, b: v128): v128 {
  return mul(log2(f32x4.div(higher(a, splat(1e-5)), higher(b, splat(1e-5)))), splat(DB_PER_OCTAVE));
}

export function compute(state: P.State, input: v128, attack: v128, sustain: v128, mix: v128): v128 {
  const level = f32x4.abs(input);
  // The slow measures follow the fast one, so that all agree on a steady tone.
  const fast = follow(state.fastAt, level, FAST_UP, SHARED_DOWN),
    slow = follow(state.slowAt, fast, SLOW_UP, FAST_UP);
  const tail = follow(state.tailAt, fast, FAST_UP, TAIL_DOWN);
  // A hit ends the tail before it at once: what is there now counts, not what is still being measured.
  const begins = clamp(decibels(fast, slow), splat(0), splat(MOST_DB)),
    rings = clamp(decibels(tail, higher(fast, level)), splat(0), splat(MOST_DB));
  const gain = gainOfDb(add(mul(begins, attack), mul(rings, sustain)));
  return mixed(input, mul(input, gain), mix);
}
