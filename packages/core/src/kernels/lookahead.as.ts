// Gains that look ahead, for limiters: the least gain that a stretch of sound to come needs, released slowly, averaged
// over a window. It has arrived when a peak does, without steps, and stays for what lies around it. Means are sums of
// integers, so that what needs nothing is let through untouched to the last bit. All memory starts as 0.
import { LOOKAHEAD_HOLD, LOOKAHEAD_HEAD } from "./abi";
import { slotOf } from "./delays.as";
import { lower, madd, splat, sub } from "./simd.as";

const HELD: usize = 0,
  RELEASED: usize = 16,
  LACKING: usize = 32,
  HEAD: usize = <usize>LOOKAHEAD_HEAD;
/** Samples on either side of a peak in which the gain stands still, so that what lies between samples is met as well. */
export const PEAK_HOLD: u32 = <u32>LOOKAHEAD_HOLD;
/** Nearer to 1 than this is 1. */
const NEARLY: f32 = 0.99999;
/** A mean of whole numbers of this many parts, less the rounding. */
const PARTS: f32 = 1073741824.0;

/** Samples over which the least gain is held, for a window of the mean. */
@inline export function holdOf(window: u32): u32 {
  return window + 2 * PEAK_HOLD + 1;
}

/** Memory that was never written stands for a gain of 1. */
@inline function gainAt(p: usize): v128 {
  const x = v128.load(p);
  return v128.or(x, v128.and(f32x4.eq(x, splat(0)), splat(1)));
}

/** True when nothing is held back and nothing will be. */
export function isOpen(p: usize): bool {
  return (
    !v128.any_true(v128.load(p, LACKING)) &&
    i32x4.all_true(f32x4.eq(gainAt(p + RELEASED), splat(1))) &&
    i32x4.all_true(f32x4.eq(gainAt(p + HELD), splat(1)))
  );
}

function leastOf(needs: usize, mask: u32, now: u32, count: u32): v128 {
  let least = splat(1);
  for (let k: u32 = 0; k < count; ++k) least = lower(least, gainAt(slotOf(needs, mask, now - k)));
  return least;
}

/**
 * Takes the gain that one more sample needs (above 0, at most 1) and gives the gain for the sample `window` +
 * PEAK_HOLD - 1 before it. `keep`: what a sample leaves of the way back to 1.
 */
export function nextGain(p: usize, mask: u32, now: u32, need: v128, window: u32, keep: v128): v128 {
  const needs = p + HEAD,
    lacks = needs + ((<usize>mask + 1) << 4),
    hold = holdOf(window);
  const leaving = gainAt(slotOf(needs, mask, now - hold));
  v128.store(slotOf(needs, mask, now), need);
  const heldBefore = gainAt(p + HELD);
  // Looked for anew only when the least one leaves.
  const held = v128.any_true(v128.and(f32x4.le(leaving, heldBefore), f32x4.lt(heldBefore, splat(1))))
    ? leastOf(needs, mask, now, hold)
    : lower(heldBefore, need);
  v128.store(p, held, HELD);
  const before = gainAt(p + RELEASED);
  let released = v128.bitselect(held, madd(sub(before, held), keep, held), f32x4.lt(held, before));
  released = v128.bitselect(
    splat(1),
    released,
    v128.and(f32x4.gt(released, splat(NEARLY)), f32x4.eq(held, splat(1))),
  );
  v128.store(p, released, RELEASED);
  const unit = floor<f32>(PARTS / <f32>window);
  const lack = sub(splat(1), released);
  // Rounded up: the mean is never above what is needed.
  const parts = i32x4.sub(i32x4.trunc_sat_f32x4_s(f32x4.mul(lack, splat(unit))), f32x4.gt(lack, splat(0)));
  const slot = slotOf(lacks, mask, now),
    old = v128.load(slotOf(lacks, mask, now - window));
  v128.store(slot, parts);
  const lacking = i32x4.sub(i32x4.add(v128.load(p, LACKING), parts), old);
  v128.store(p, lacking, LACKING);
  if (!v128.any_true(lacking)) return splat(1);
  const whole = <i32>unit * <i32>window;
  return f32x4.mul(
    f32x4.convert_i32x4_s(i32x4.max_s(i32x4.sub(i32x4.splat(whole), lacking), i32x4.splat(0))),
    splat(1 / <f32>whole),
  );
}
