// Measures of a signal's level, and what follows them at one pace up and another down.
import { LOG2E } from "./levels.as";
import { exp2, add, div, higher, madd, mul, select, splat, sub } from "./simd.as";

/** Decibels are left below this. */
const LEAST_PEAK: f32 = 1e-9;

/** What a one-pole leaves of its way in a frame, for a time constant: e^(-frame / t), `frame` in the time's unit. */
@inline export function keepOver(frame: f32, time: v128): v128 {
  return exp2(div(splat(-LOG2E * frame), time));
}
/** One frame of the way from `now` to a goal. */
@inline export function approach(now: v128, goal: v128, keep: v128): v128 {
  return add(goal, mul(sub(now, goal), keep));
}
/** Exactly 0 below a level that counts as silence. */
@inline export function endedBelow(x: v128, silence: f32): v128 {
  return v128.and(x, f32x4.gt(x, splat(silence)));
}

/** Share of the way in a frame for a time constant of so many seconds; 1 - e^-x is x for such short frames, to a part in fifty. */
@inline export function paceOver(seconds: f32, rate: f32): f32 {
  return 1 / (1 + seconds * rate);
}
/** Moves the measure at `at` towards x, at one pace up and another down. */
@inline export function follow(at: usize, x: v128, up: f32, down: f32, silence: f32): v128 {
  const now = v128.load(at);
  const next = endedBelow(madd(sub(x, now), select(splat(up), splat(down), f32x4.gt(x, now)), now), silence);
  v128.store(at, next);
  return next;
}

/**
 * The peak of a level: held for `hold` frames, then falling by `pace` a frame. A steady tone whose half period is shorter
 * reads its peak at all times. State: the peak at `peakAt`, frames left at `leftAt`.
 */
@inline export function heldPeak(peakAt: usize, leftAt: usize, level: v128, hold: i32, pace: f32): v128 {
  const before = v128.load(peakAt),
    left = v128.load(leftAt);
  const rises = f32x4.ge(level, before),
    fallen = mul(before, splat(1 - pace));
  const peak = select(level, select(before, higher(fallen, level), i32x4.gt_s(left, i32x4.splat(0))), rises);
  v128.store(peakAt, endedBelow(peak, LEAST_PEAK));
  v128.store(
    leftAt,
    v128.bitselect(i32x4.splat(hold), i32x4.add(left, i32x4.gt_s(left, i32x4.splat(0))), rises),
  );
  return peak;
}

/** Of two sides in neighbouring lanes the louder, in both: they move together, or the middle would wander. */
@inline export function linked(level: v128): v128 {
  return higher(level, v128.shuffle<i32>(level, level, 1, 0, 3, 2));
}
