import * as P from "../../../generated/hold.as";
import { isOn, isZero, rising, unmoved } from "../../../kernels/edges.as";
import { sampleRate } from "../../../kernels/time.as";
import { stepPhase } from "../../../kernels/phase.as";
import {
  add,
  bipolar,
  clamp,
  div,
  higher,
  lower,
  madd,
  mixBits,
  mul,
  splat,
  sub,
} from "../../../kernels/simd.as";

/** What is kept for long must be sane. */
const MOST: f32 = 10000;

export function idle(m: P.Module, state: P.State, clock: v128): bool {
  if (!m.clock.isCabled || !unmoved(state.beforeAt, clock)) return false;
  return v128.any_true(f32x4.lt(state.progress, splat(1))) == 0 && m.mode == P.MODE_SAMPLE;
}

export function compute(
  m: P.Module,
  g: u32,
  state: P.State,
  out: P.Outputs,
  clock: v128,
  rate: v128,
  glide: v128,
  input: v128,
  level: v128,
): void {
  const clocked = m.clock.isCabled;
  let gate = clock;
  if (!clocked) {
    // Its own clock is on for the first half of its cycle, so it takes a value at once.
    const high = state.high;
    gate = v128.and(i32x4.ge_s(high, i32x4.splat(0)), splat(1));
    stepPhase(state.highAt, high, state.low, rate);
  }
  const rises = rising(state.beforeAt, gate);
  const takes = m.mode == P.MODE_TRACK ? isOn(gate) : rises;
  let from = state.from,
    to = state.to,
    progress = state.progress;
  if (isZero(state.startedAt)) {
    progress = splat(1);
    state.started = i32x4.splat(-1);
  }
  if (v128.any_true(takes)) {
    const count = i32x4.sub(state.count, rises);
    state.count = count;
    if (!m.in.isCabled)
      input = bipolar(mixBits(v128.xor(m.drawSeeds(g), i32x4.mul(count, i32x4.splat(0x9e3779b1)))));
    input = clamp(input, splat(-MOST), splat(MOST));
    from = v128.bitselect(madd(sub(to, from), progress, from), from, takes);
    to = v128.bitselect(input, to, takes);
    progress = v128.bitselect(
      v128.and(f32x4.lt(mul(glide, splat(sampleRate)), splat(1)), splat(1)),
      progress,
      takes,
    );
  }
  let y = add(to, mul(sub(from, to), sub(splat(1), progress)));
  if (m.polarity == P.POLARITY_UNIPOLAR) y = madd(y, splat(0.5), splat(0.5));
  out.out = mul(y, level);
  progress = lower(splat(1), add(progress, div(splat(1), higher(mul(glide, splat(sampleRate)), splat(1)))));
  state.from = from;
  state.to = to;
  state.progress = progress;
}
