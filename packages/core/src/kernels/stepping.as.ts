// What steps through places at a clock: switches and sequences. State per group, in this order: clock before, reset
// before, step, started, direction, count (of steps taken), then the gains of eight channels where there are any.
import { Instance } from "./instance.as";
import { rising, unmoved } from "./edges.as";
import { sampleRate } from "./time.as";
import { add, clamp, div, higher, mixBits, mul, splat, sub } from "./simd.as";

export const ORDER_FORWARD: i32 = 0,
  ORDER_REVERSE: i32 = 1,
  ORDER_PENDULUM: i32 = 2,
  ORDER_RANDOM: i32 = 3,
  ORDER_WALK: i32 = 4;
const RESET: usize = 16,
  STEP: usize = 32,
  STARTED: usize = 48,
  DIRECTION: usize = 64,
  COUNT: usize = 80,
  GAINS: usize = 96;

/** Deterministic random bits of a lane's nth step. */
@inline export function stepBits(m: Instance, g: u32, k: u32, count: i32): u32 {
  const bits = mixBits(v128.xor(m.laneSeeds(g), i32x4.mul(i32x4.splat(count), i32x4.splat(0x9e3779b1))));
  return <u32>(
    (k == 0
      ? i32x4.extract_lane(bits, 0)
      : k == 1
        ? i32x4.extract_lane(bits, 1)
        : k == 2
          ? i32x4.extract_lane(bits, 2)
          : i32x4.extract_lane(bits, 3))
  );
}

/** Where the first clock plays. */
@inline export function firstStep(kind: i32, count: i32, bits: u32): i32 {
  return kind == ORDER_REVERSE ? count - 1 : kind == ORDER_RANDOM ? <i32>((<u64>bits * <u64>count) >> 32) : 0;
}

/** The step after `step`; `direction` (1 or -1) is read and written for the pendulum, which plays its ends once. */
export function nextStep(kind: i32, step: i32, count: i32, bits: u32, direction: usize): i32 {
  if (count <= 1) return 0;
  if (kind == ORDER_FORWARD) return step + 1 >= count ? 0 : step + 1;
  if (kind == ORDER_REVERSE) return step <= 0 ? count - 1 : step - 1;
  if (kind == ORDER_RANDOM) return <i32>((<u64>bits * <u64>count) >> 32);
  if (kind == ORDER_WALK) {
    const next = step + (bits >> 31 ? 1 : -1);
    return next < 0 ? 1 : next >= count ? count - 2 : next;
  }
  let way = load<i32>(direction);
  if (way == 0) way = 1;
  if (step + way >= count || step + way < 0) way = -way;
  store<i32>(direction, way);
  return min(max(step + way, 0), count - 1);
}

/** The step every lane's `selected`, 0…1, points at. */
@inline function pointedStep(selected: v128, steps: i32): v128 {
  const most = <f32>steps;
  return i32x4.trunc_sat_f32x4_s(clamp(mul(selected, splat(most)), splat(0), splat(most - 1)));
}

/**
 * Moves the lanes whose clock rises; the step of every lane. A reset at the same sample comes first; `direct`: the step is
 * where `selected`, 0…1, points.
 */
export function selectStep(
  m: Instance,
  group: u32,
  state: usize,
  clock: v128,
  reset: v128,
  direct: bool,
  selected: v128,
  stepsSet: f32,
  order: i32,
): v128 {
  const steps = max(<i32>stepsSet, 1);
  const resets = rising(state + RESET, reset),
    clocks = rising(state, clock);
  if (v128.any_true(resets)) {
    v128.store(state + STARTED, v128.andnot(v128.load(state + STARTED), resets));
    const home = i32x4.splat(firstStep(order, steps, 0));
    v128.store(state + STEP, v128.bitselect(home, v128.load(state + STEP), resets));
    v128.store(state + DIRECTION, v128.andnot(v128.load(state + DIRECTION), resets));
  }
  if (v128.any_true(clocks)) {
    for (let k: u32 = 0; k < 4; ++k) {
      const o = (<usize>k) << 2;
      if (!((i32x4.bitmask(clocks) >> k) & 1)) continue;
      const count = load<i32>(state + COUNT + o) + 1;
      store<i32>(state + COUNT + o, count);
      const bits = stepBits(m, group, k, count);
      const started = load<i32>(state + STARTED + o) != 0;
      store<i32>(
        state + STEP + o,
        started
          ? nextStep(order, load<i32>(state + STEP + o), steps, bits, state + DIRECTION + o)
          : firstStep(order, steps, bits),
      );
      store<i32>(state + STARTED + o, -1);
    }
  }
  if (direct) v128.store(state + STEP, pointedStep(selected, steps));
  return i32x4.min_s(v128.load(state + STEP), i32x4.splat(steps - 1));
}

/** Gains of the eight channels on their way to the chosen one; where they stand. */
export function moveGains(state: usize, step: v128, fade: v128): usize {
  const gains = state + GAINS;
  const rate = div(splat(1000 / sampleRate), higher(fade, splat(1000 / sampleRate)));
  for (let n: i32 = 0; n < 8; ++n) {
    const goal = v128.and(i32x4.eq(step, i32x4.splat(n)), splat(1));
    const now = v128.load(gains + (n << 4));
    v128.store(gains + (n << 4), add(now, clamp(sub(goal, now), f32x4.neg(rate), rate)));
  }
  return gains;
}

/** True when no clock or reset changes and every gain has arrived. */
export function stepsUnmoved(
  state: usize,
  clock: v128,
  reset: v128,
  direct: bool,
  selected: v128,
  stepsSet: f32,
): bool {
  const steps = max(<i32>stepsSet, 1);
  if (!unmoved(state, clock) || !unmoved(state + RESET, reset)) return false;
  if (direct && v128.any_true(v128.xor(pointedStep(selected, steps), v128.load(state + STEP)))) return false;
  const step = i32x4.min_s(v128.load(state + STEP), i32x4.splat(steps - 1));
  for (let n: i32 = 0; n < 8; ++n) {
    if (
      v128.any_true(
        f32x4.ne(v128.load(state + GAINS + (n << 4)), v128.and(i32x4.eq(step, i32x4.splat(n)), splat(1))),
      )
    )
      return false;
  }
  return true;
}
