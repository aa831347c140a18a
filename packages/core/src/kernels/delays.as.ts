// Rings of frames, written at the absolute frame and read between their samples, shared by everything that delays; and the
// delays that time, pitch and unit ask for.
import { C4 } from "./phase.as";
import { sampleRate } from "./time.as";
import { add, div, exp2, madd, mul, select, sineOfCycles, splat, sub, uniform } from "./simd.as";

/** What a ring keeps free: one block and the reach of the interpolation. */
export const SLACK: u32 = 134;
/** In the order of the modules' choices. */
const UNIT_MS: i32 = 0,
  UNIT_PITCH: i32 = 2;

/** Mask of a ring of so many bytes, a power of two of vectors. */
@inline export function maskOf(bytes: usize): u32 {
  return <u32>(bytes >> 4) - 1;
}
/** Where a frame stands in a ring. */
@inline export function slotOf(ring: usize, mask: u32, frame: u32): usize {
  return ring + ((<usize>(frame & mask)) << 4);
}
/** A delay in frames: of a time in ms or samples, or of one period of a pitch. */
@inline export function delayFrames(unit: i32, time: v128, pitch: v128): v128 {
  if (unit == UNIT_PITCH) return div(splat(sampleRate / C4), exp2(pitch));
  return unit == UNIT_MS ? mul(time, splat(sampleRate / 1000)) : time;
}
/** Frames of the future that an interpolation looks at. */
@inline export function reachOf(interpolation: i32): i32 {
  return interpolation == INTERPOLATION_SPLINE ? 2 : 1;
}

/** In the order of the modules' choices. */
export const INTERPOLATION_NONE: i32 = 0,
  INTERPOLATION_LINEAR: i32 = 1,
  INTERPOLATION_COSINE: i32 = 2,
  INTERPOLATION_CUBIC: i32 = 3,
  INTERPOLATION_SPLINE: i32 = 4,
  INTERPOLATION_ALLPASS: i32 = 5;


@inline export function leastLane(x: v128): f32 {
  return min(
    min(f32x4.extract_lane(x, 0), f32x4.extract_lane(x, 1)),
    min(f32x4.extract_lane(x, 2), f32x4.extract_lane(x, 3)),
  );
}

/** The vector `back` frames before `now`, each lane by itself. */
@inline export function past(ring: usize, mask: u32, now: u32, back: v128, same: bool): v128 {
  if (same) return v128.load(slotOf(ring, mask, now - <u32>i32x4.extract_lane(back, 0)));
  return f32x4(
    load<f32>(slotOf(ring, mask, now - <u32>i32x4.extract_lane(back, 0))),
    load<f32>(slotOf(ring, mask, now - <u32>i32x4.extract_lane(back, 1)), 4),
    load<f32>(slotOf(ring, mask, now - <u32>i32x4.extract_lane(back, 2)), 8),
    load<f32>(slotOf(ring, mask, now - <u32>i32x4.extract_lane(back, 3)), 12),
  );
}


@inline function older(back: v128, frames: i32): v128 {
  return i32x4.add(back, i32x4.splat(frames));
}

/** Four-point, third-order Lagrange at fraction f after x1 (x0 is newer). Exactly x1 at f = 0. */
@inline function cubic(x0: v128, x1: v128, x2: v128, x3: v128, f: v128): v128 {
  const a = sub(x2, mul(splat(1.0 / 3.0), x0));
  const c1 = sub(sub(a, mul(splat(0.5), x1)), mul(splat(1.0 / 6.0), x3));
  const c2 = sub(mul(splat(0.5), add(x0, x2)), x1);
  const c3 = madd(splat(1.0 / 6.0), sub(x3, x0), mul(splat(0.5), sub(x1, x2)));
  return madd(madd(madd(c3, f, c2), f, c1), f, x1);
}

/** Six-point, fifth-order Lagrange in the Neville form around x2; exactly x2 at f = 0. */
@inline function quintic(x0: v128, x1: v128, x2: v128, x3: v128, x4: v128, x5: v128, f: v128): v128 {
  // Newton form with nodes in the order 0, 1, -1, 2, -2, 3: each term vanishes at f = 0.
  const d1 = sub(x3, x2);
  const second = mul(splat(0.5), add(sub(x3, x2), sub(x1, x2)));
  const third = mul(splat(1.0 / 6.0), sub(sub(x4, x1), mul(splat(3), sub(x3, x2))));
  const fourth = mul(splat(1.0 / 24.0), add(sub(add(x0, x4), mul(splat(4), add(x1, x3))), mul(splat(6), x2)));
  const fifth = mul(
    splat(1.0 / 120.0),
    add(sub(x5, x0), sub(mul(splat(5), sub(x1, x4)), mul(splat(10), sub(x2, x3)))),
  );
  const down = sub(f, splat(1)),
    up = add(f, splat(1)),
    down2 = sub(f, splat(2)),
    up2 = add(f, splat(2));
  let y = madd(fifth, up2, fourth);
  y = madd(y, down2, third);
  y = madd(y, up, second);
  y = madd(y, down, d1);
  return madd(y, f, x2);
}

/** A ring of frames `delay` frames ago; `allpass`: the state of that interpolation. */
export function readPast(
  kind: i32,
  ring: usize,
  mask: u32,
  now: u32,
  delay: v128,
  same: bool,
  allpass: usize,
): v128 {
  if (kind == INTERPOLATION_NONE)
    return past(ring, mask, now, i32x4.trunc_sat_f32x4_s(add(delay, splat(0.5))), same);
  const whole = i32x4.trunc_sat_f32x4_s(delay);
  const f = sub(delay, f32x4.convert_i32x4_s(whole));
  const x1 = past(ring, mask, now, whole, same),
    x2 = past(ring, mask, now, older(whole, 1), same);
  if (kind == INTERPOLATION_ALLPASS) {
    // y = c (x - y1) + x1 with delay d = (1 - c) / (1 + c) within 0.5 … 1.5 where there is room for it.
    const room = v128.and(f32x4.lt(f, splat(0.5)), i32x4.gt_s(whole, i32x4.splat(1)));
    const d = select(add(f, splat(1)), f, room);
    const newer = select(past(ring, mask, now, older(whole, -1), same), x1, room),
      old = select(x1, x2, room);
    const c = div(sub(splat(1), d), add(splat(1), d));
    const y = madd(c, sub(newer, v128.load(allpass)), old);
    v128.store(allpass, y);
    return y;
  }
  const linear = madd(sub(x2, x1), f, x1);
  if (kind == INTERPOLATION_LINEAR) return linear;
  if (kind == INTERPOLATION_COSINE) {
    // (1 - cos pi f) / 2 = sin^2(pi f / 2)
    const s = sineOfCycles(mul(splat(0.25), f));
    return madd(sub(x2, x1), mul(s, s), x1);
  }
  // The newer neighbours exist only where the delay is long enough; shorter ones fall back a step.
  const x0 = past(ring, mask, now, older(whole, -1), same),
    x3 = past(ring, mask, now, older(whole, 2), same);
  const four = select(cubic(x0, x1, x2, x3, f), linear, i32x4.gt_s(whole, i32x4.splat(1)));
  if (kind == INTERPOLATION_CUBIC) return four;
  const six = quintic(
    past(ring, mask, now, older(whole, -2), same),
    x0,
    x1,
    x2,
    x3,
    past(ring, mask, now, older(whole, 3), same),
    f,
  );
  return select(six, four, i32x4.gt_s(whole, i32x4.splat(2)));
}

/** Six samples of one lane that a fraction lies among, where they cross the end of a ring: copied here in a row. */
const wrapped: usize = memory.data(192, 16);

/** Where six samples of a lane stand one frame apart, the oldest at `first`; `spare`: where they go if the ring ends there. */
@inline function sixOf(ring: usize, mask: u32, first: u32, lane: usize, spare: usize): usize {
  const at = first & mask;
  if (at + 5 <= mask) return ring + ((<usize>at) << 4) + lane;
  for (let n: u32 = 0; n < 6; ++n)
    store<f32>(spare + (n << 4), load<f32>(slotOf(ring, mask, first + n) + lane));
  return spare;
}


@inline function pair(a: usize, b: usize, offset: usize): v128 {
  return v128.load_lane<f32>(b + offset, v128.load32_zero(a + offset), 1);
}

/**
 * A ring of frames `delay` frames ago as `readPast` gives it with splines, for sound that stands in the first two lanes
 * alone, as that of an effect which sums its voices does: half the work.
 */
export function readSides(isPair: bool, ring: usize, mask: u32, now: u32, delay: v128): v128 {
  const whole = i32x4.trunc_sat_f32x4_s(delay);
  const left = <u32>i32x4.extract_lane(whole, 0),
    right = <u32>i32x4.extract_lane(whole, 1);
  if (!isPair || left < 3 || right < 3)
    return readPast(INTERPOLATION_SPLINE, ring, mask, now, delay, uniform(delay), 0);
  const a = sixOf(ring, mask, now - left - 3, 0, wrapped),
    b = sixOf(ring, mask, now - right - 3, 4, wrapped + 96);
  return quintic(
    pair(a, b, 80),
    pair(a, b, 64),
    pair(a, b, 48),
    pair(a, b, 32),
    pair(a, b, 16),
    pair(a, b, 0),
    sub(delay, f32x4.convert_i32x4_s(whole)),
  );
}
