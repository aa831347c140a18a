import * as P from "../../../generated/hold.as";
import { isOn, isZero, rising, unmoved } from "../../../kernels/edges.as";
import {
  choiceOf,
  isCabled,
  drawSeedsOf,
  put,
  read,
  sampleRate,
  signalAt,
  stateOf,
} from "../../../kernels/instance.as";
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

export function idle(instance: usize, g: u32): bool {
  const state = stateOf(instance, g);
  if (
    !isCabled(signalAt(instance, P.IN_CLOCK)) ||
    !unmoved(state + P.STATE_BEFORE, read(instance, P.IN_CLOCK, g, 0))
  )
    return false;
  return (
    v128.any_true(f32x4.lt(v128.load(state + P.STATE_PROGRESS), splat(1))) == 0 &&
    choiceOf(instance, P.SET_MODE) == P.MODE_SAMPLE
  );
}

export function compute(instance: usize, g: u32, f: u32): void {
  const state = stateOf(instance, g),
    clocked = isCabled(signalAt(instance, P.IN_CLOCK));
  let gate = read(instance, P.IN_CLOCK, g, f);
  if (!clocked) {
    // Its own clock is on for the first half of its cycle, so it takes a value at once.
    const high = v128.load(state + P.STATE_HIGH);
    gate = v128.and(i32x4.ge_s(high, i32x4.splat(0)), splat(1));
    stepPhase(state + P.STATE_HIGH, high, v128.load(state + P.STATE_LOW), read(instance, P.PARAM_RATE, g, f));
  }
  const rises = rising(state + P.STATE_BEFORE, gate);
  const takes = choiceOf(instance, P.SET_MODE) == P.MODE_TRACK ? isOn(gate) : rises;
  let from = v128.load(state + P.STATE_FROM),
    to = v128.load(state + P.STATE_TO),
    progress = v128.load(state + P.STATE_PROGRESS);
  if (isZero(state + P.STATE_STARTED)) {
    progress = splat(1);
    v128.store(state + P.STATE_STARTED, i32x4.splat(-1));
  }
  const glide = read(instance, P.PARAM_GLIDE, g, f);
  if (v128.any_true(takes)) {
    const count = i32x4.sub(v128.load(state + P.STATE_COUNT), rises);
    v128.store(state + P.STATE_COUNT, count);
    let x = read(instance, P.IN_IN, g, f);
    if (!isCabled(signalAt(instance, P.IN_IN)))
      x = bipolar(mixBits(v128.xor(drawSeedsOf(instance, g), i32x4.mul(count, i32x4.splat(0x9e3779b1)))));
    x = clamp(x, splat(-MOST), splat(MOST));
    from = v128.bitselect(madd(sub(to, from), progress, from), from, takes);
    to = v128.bitselect(x, to, takes);
    progress = v128.bitselect(
      v128.and(f32x4.lt(mul(glide, splat(sampleRate)), splat(1)), splat(1)),
      progress,
      takes,
    );
  }
  let y = add(to, mul(sub(from, to), sub(splat(1), progress)));
  if (choiceOf(instance, P.SET_POLARITY) == P.POLARITY_UNIPOLAR) y = madd(y, splat(0.5), splat(0.5));
  put(instance, P.OUT_OUT, g, f, mul(y, read(instance, P.PARAM_LEVEL, g, f)));
  progress = lower(splat(1), add(progress, div(splat(1), higher(mul(glide, splat(sampleRate)), splat(1)))));
  v128.store(state + P.STATE_FROM, from);
  v128.store(state + P.STATE_TO, to);
  v128.store(state + P.STATE_PROGRESS, progress);
}
