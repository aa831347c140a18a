import * as P from "../../../generated/random.as";
import { isZero, nextTrigger, rising, startTrigger, unmoved } from "../../../kernels/edges.as";
import {
  choiceOf,
  isCabled,
  drawSeedsOf,
  put,
  read,
  sampleRate,
  signalAt,
  stateOf,
  time,
} from "../../../kernels/instance.as";
import { stepPhase } from "../../../kernels/phase.as";
import { add, bipolar, div, higher, lower, madd, mixBits, mul, splat, sub } from "../../../kernels/simd.as";

/** Frames since the last clock: the absolute frame of it is kept, so that nobody need count while it rests. */
// @ts-ignore: decorator
@inline function sinceOf(state: usize, f: u32): v128 {
  return f32x4.convert_i32x4_s(i32x4.sub(i32x4.splat(<i32>(time + f)), v128.load(state + P.STATE_CLOCKED)));
}

export function idle(instance: usize, g: u32): bool {
  const state = stateOf(instance, g);
  if (
    !isCabled(signalAt(instance, P.IN_CLOCK)) ||
    !unmoved(state + P.STATE_BEFORE, read(instance, P.IN_CLOCK, g, 0)) ||
    !unmoved(state + P.STATE_RESETBEFORE, read(instance, P.IN_RESET, g, 0))
  )
    return false;
  return (
    isZero(state + P.STATE_LEFT) &&
    !v128.any_true(f32x4.lt(sinceOf(state, 0), v128.load(state + P.STATE_PERIOD)))
  );
}

// @ts-ignore: decorator
@inline function drawn(seeds: v128, count: v128, salt: i32): v128 {
  return mixBits(v128.xor(i32x4.add(seeds, i32x4.splat(salt)), i32x4.mul(count, i32x4.splat(0x9e3779b1))));
}

/** A value within −1…1 of the chosen distribution. Bell: mean of three even ones. Edges: a sine of an even one. */
function valueFor(kind: i32, seeds: v128, count: v128): v128 {
  const a = bipolar(drawn(seeds, count, 0));
  if (kind == P.DISTRIBUTION_BELL)
    return mul(
      add(add(a, bipolar(drawn(seeds, count, 0x1f83d9ab))), bipolar(drawn(seeds, count, 0x5be0cd19))),
      splat(0.33333334),
    );
  if (kind == P.DISTRIBUTION_EDGES) {
    // Odd and steep in the middle: sign(a) · (1 − (1 − |a|)²).
    const rest = sub(splat(1), f32x4.abs(a));
    return v128.or(sub(splat(1), mul(rest, rest)), v128.and(a, i32x4.splat(<i32>0x80000000)));
  }
  return a;
}

/** The next value of every lane that steps: drawn, or found again in its loop. */
function stepped(instance: usize, g: u32, f: u32, state: usize, steps: v128): v128 {
  const seeds = drawSeedsOf(instance, g);
  const count = i32x4.sub(v128.load(state + P.STATE_COUNT), steps);
  v128.store(state + P.STATE_COUNT, count);
  let y = valueFor(choiceOf(instance, P.SET_DISTRIBUTION), seeds, count);
  const loops = read(instance, P.PARAM_LOOP, g, f);
  if (!v128.any_true(f32x4.ge(loops, splat(0.5)))) return y;
  const chance = mul(
    f32x4.convert_i32x4_s(i32x4.shr_u(drawn(seeds, count, 0x3c6ef372), 8)),
    splat(5.9604644775390625e-8),
  );
  const changes = i32x4.bitmask(f32x4.lt(chance, read(instance, P.PARAM_CHANGE, g, f)));
  const lanes = i32x4.bitmask(steps);
  const row = state + P.STATE_TO;
  const kept = v128.load(row);
  v128.store(row, y);
  v128.store(state + P.STATE_LOOPS, loops);
  for (let k: u32 = 0; k < 4; ++k) {
    if (!((lanes >> k) & 1)) continue;
    const o = (<usize>k) << 2;
    const length = <i32>nearest<f32>(load<f32>(state + P.STATE_LOOPS + o));
    if (length < 1) continue;
    let place = load<i32>(state + P.STATE_PLACE + o);
    if (place >= length) place = 0;
    const at = state + P.STATE_VALUES + ((<usize>place) << 4) + o;
    const known = (load<u32>(state + P.STATE_FILLED + o) >> place) & 1;
    if (known && !((changes >> k) & 1)) store<f32>(row + o, load<f32>(at));
    else store<f32>(at, load<f32>(row + o));
    store<u32>(state + P.STATE_FILLED + o, load<u32>(state + P.STATE_FILLED + o) | (1 << place));
    store<i32>(state + P.STATE_PLACE + o, place + 1 >= length ? 0 : place + 1);
  }
  y = v128.load(row);
  v128.store(row, kept);
  return y;
}

export function compute(instance: usize, g: u32, f: u32): void {
  const state = stateOf(instance, g);
  let gate = read(instance, P.IN_CLOCK, g, f);
  if (!isCabled(signalAt(instance, P.IN_CLOCK))) {
    const high = v128.load(state + P.STATE_HIGH);
    gate = v128.and(i32x4.ge_s(high, i32x4.splat(0)), splat(1));
    stepPhase(state + P.STATE_HIGH, high, v128.load(state + P.STATE_LOW), read(instance, P.PARAM_RATE, g, f));
  }
  v128.store(
    state + P.STATE_PLACE,
    v128.andnot(
      v128.load(state + P.STATE_PLACE),
      rising(state + P.STATE_RESETBEFORE, read(instance, P.IN_RESET, g, f)),
    ),
  );
  const steps = rising(state + P.STATE_BEFORE, gate);
  let since = sinceOf(state, f),
    period = v128.load(state + P.STATE_PERIOD);
  if (v128.any_true(steps)) {
    const y = stepped(instance, g, f, state, steps);
    const progress = lower(splat(1), div(since, higher(period, splat(1))));
    const from = v128.load(state + P.STATE_FROM),
      to = v128.load(state + P.STATE_TO);
    v128.store(state + P.STATE_FROM, v128.bitselect(madd(sub(to, from), progress, from), from, steps));
    v128.store(state + P.STATE_TO, v128.bitselect(y, to, steps));
    // Until two clocks have come, a step counts as a tenth of a second.
    const first = i32x4.le_s(v128.load(state + P.STATE_COUNT), i32x4.splat(1));
    period = v128.bitselect(v128.bitselect(splat(0.1 * sampleRate), since, first), period, steps);
    v128.store(
      state + P.STATE_CLOCKED,
      v128.bitselect(i32x4.splat(<i32>(time + f)), v128.load(state + P.STATE_CLOCKED), steps),
    );
    since = v128.andnot(since, steps);
    startTrigger(state + P.STATE_LEFT, steps);
  }
  const to = v128.load(state + P.STATE_TO),
    from = v128.load(state + P.STATE_FROM);
  const x = lower(splat(1), div(since, higher(period, splat(1))));
  let smooth = add(to, mul(sub(from, to), sub(splat(1), x))),
    step = to;
  if (choiceOf(instance, P.SET_POLARITY) == P.POLARITY_UNIPOLAR) {
    smooth = madd(smooth, splat(0.5), splat(0.5));
    step = madd(step, splat(0.5), splat(0.5));
  }
  put(instance, P.OUT_STEPPED, g, f, step);
  put(instance, P.OUT_SMOOTH, g, f, smooth);
  put(instance, P.OUT_TRIGGER, g, f, nextTrigger(state + P.STATE_LEFT));
  v128.store(state + P.STATE_PERIOD, period);
}
