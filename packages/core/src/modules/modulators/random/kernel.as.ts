import * as P from "../../../generated/random.as";
import { isZero, nextTrigger, rising, startTrigger, unmoved } from "../../../kernels/edges.as";
import { sampleRate, time } from "../../../kernels/time.as";
import { stepPhase } from "../../../kernels/phase.as";
import { add, bipolar, div, higher, lower, madd, mixBits, mul, splat, sub } from "../../../kernels/simd.as";

/** Frames since the last clock: the absolute frame of it is kept, so that nobody need count while it rests. */
@inline function sinceOf(state: P.State, f: u32): v128 {
  return f32x4.convert_i32x4_s(i32x4.sub(i32x4.splat(<i32>(time + f)), state.clocked));
}

export function idle(m: P.Module, state: P.State, clock: v128, reset: v128): bool {
  if (!m.clock.isCabled || !unmoved(state.beforeAt, clock) || !unmoved(state.resetBeforeAt, reset))
    return false;
  return isZero(state.leftAt) && !v128.any_true(f32x4.lt(sinceOf(state, 0), state.period));
}


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
function stepped(m: P.Module, g: u32, f: u32, state: P.State, steps: v128): v128 {
  const seeds = m.drawSeeds(g);
  const count = i32x4.sub(state.count, steps);
  state.count = count;
  let y = valueFor(m.distribution, seeds, count);
  const loops = m.loop.at(g, f);
  if (!v128.any_true(f32x4.ge(loops, splat(0.5)))) return y;
  const chance = mul(
    f32x4.convert_i32x4_s(i32x4.shr_u(drawn(seeds, count, 0x3c6ef372), 8)),
    splat(5.9604644775390625e-8),
  );
  const changes = i32x4.bitmask(f32x4.lt(chance, m.change.at(g, f)));
  const lanes = i32x4.bitmask(steps);
  const row = state.toAt;
  const kept = v128.load(row);
  v128.store(row, y);
  state.loops = loops;
  for (let k: u32 = 0; k < 4; ++k) {
    if (!((lanes >> k) & 1)) continue;
    const o = (<usize>k) << 2;
    const length = <i32>nearest<f32>(load<f32>(state.loopsAt + o));
    if (length < 1) continue;
    let place = load<i32>(state.placeAt + o);
    if (place >= length) place = 0;
    const at = state.valuesAt + ((<usize>place) << 4) + o;
    const known = (load<u32>(state.filledAt + o) >> place) & 1;
    if (known && !((changes >> k) & 1)) store<f32>(row + o, load<f32>(at));
    else store<f32>(at, load<f32>(row + o));
    store<u32>(state.filledAt + o, load<u32>(state.filledAt + o) | (1 << place));
    store<i32>(state.placeAt + o, place + 1 >= length ? 0 : place + 1);
  }
  y = v128.load(row);
  v128.store(row, kept);
  return y;
}

export function compute(
  m: P.Module,
  g: u32,
  f: u32,
  state: P.State,
  out: P.Outputs,
  clock: v128,
  rate: v128,
  reset: v128,
): void {
  let gate = clock;
  if (!m.clock.isCabled) {
    const high = state.high;
    gate = v128.and(i32x4.ge_s(high, i32x4.splat(0)), splat(1));
    stepPhase(state.highAt, high, state.low, rate);
  }
  state.place = v128.andnot(state.place, rising(state.resetBeforeAt, reset));
  const steps = rising(state.beforeAt, gate);
  let since = sinceOf(state, f),
    period = state.period;
  if (v128.any_true(steps)) {
    const y = stepped(m, g, f, state, steps);
    const progress = lower(splat(1), div(since, higher(period, splat(1))));
    const from = state.from,
      to = state.to;
    state.from = v128.bitselect(madd(sub(to, from), progress, from), from, steps);
    state.to = v128.bitselect(y, to, steps);
    // Until two clocks have come, a step counts as a tenth of a second.
    const first = i32x4.le_s(state.count, i32x4.splat(1));
    period = v128.bitselect(v128.bitselect(splat(0.1 * sampleRate), since, first), period, steps);
    state.clocked = v128.bitselect(i32x4.splat(<i32>(time + f)), state.clocked, steps);
    since = v128.andnot(since, steps);
    startTrigger(state.leftAt, steps);
  }
  const to = state.to,
    from = state.from;
  const x = lower(splat(1), div(since, higher(period, splat(1))));
  let smooth = add(to, mul(sub(from, to), sub(splat(1), x))),
    step = to;
  if (m.polarity == P.POLARITY_UNIPOLAR) {
    smooth = madd(smooth, splat(0.5), splat(0.5));
    step = madd(step, splat(0.5), splat(0.5));
  }
  out.stepped = step;
  out.smooth = smooth;
  out.trigger = nextTrigger(state.leftAt);
  state.period = period;
}
