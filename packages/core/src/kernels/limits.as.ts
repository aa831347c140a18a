// What keeps loops and resonances bounded: exact below a knee, softly bent above it.
import { at, COMMON, div, madd, select, SIGN, splat, sub } from "./simd.as";

/** Anything louder is a blow-up, anything softer would echo as denormals for ever. */
const GREATEST: f32 = 1e6,
  LEAST: f32 = 1e-15;

/**
 * x up to the knee; above it k + r t / (1 + t), t = (|x| - k) / r: slope 1 at the knee, never k + r. What is not finite,
 * absurd or inaudible is 0. `knee`, `range` linear levels.
 */
@inline export function softLimit(x: v128, knee: f32, range: f32): v128 {
  const size = f32x4.abs(x);
  const sane = v128.and(x, v128.and(f32x4.lt(size, splat(GREATEST)), f32x4.gt(size, splat(LEAST))));
  const loud = f32x4.gt(size, splat(knee));
  if (!v128.any_true(loud)) return sane;
  const over = sub(size, splat(knee)),
    bent = madd(splat(range), div(over, f32x4.add(over, splat(range))), splat(knee));
  return select(
    v128.and(v128.or(bent, v128.and(x, at(COMMON, SIGN))), f32x4.lt(size, splat(GREATEST))),
    sane,
    loud,
  );
}

/** Loops of raw delays bend above +12 dBFS, resonators at half of that: what they add up to stays below +12 dBFS. */
export const LOOP_KNEE: f32 = 4,
  LOOP_RANGE: f32 = 4,
  BODY_KNEE: f32 = 1,
  BODY_RANGE: f32 = 1;
