// The saw: naive, with a step where a corner is; by itself where corners are few.
import * as P from "../../../generated/oscillator.as";
import { scratch } from "../../../kernels/scratch.as";
import { cornersFor, inverseOf, sawAt, signedCycles, widestIncrement } from "../../../kernels/corners.as";
import {
  add,
  at,
  COMMON,
  mul,
  ONE,
  PER_CYCLE,
  PER_HALF_CYCLE,
  SIGN,
  splat,
  sub,
} from "../../../kernels/simd.as";
import {
  lookUp,
  lookUpPoint,
  STEP_POINTS,
  STEP_REACH,
  stepLimits,
  stepTable,
} from "../../../kernels/tables.as";

/** Scratch rows of a block: phases, increments, phases of the octave below. */
export const PHASES = 0,
  INCREMENTS = 1,
  SUBPHASES = 2;

/** A saw of constant pitch with at most one corner near, phase and wave in one go: the case that counts. */
export function runSteadySaw(
  state: P.State,
  out: usize,
  level: usize,
  levelStride: usize,
  frames: u32,
  stepHigh: v128,
  stepLow: v128,
  increment: v128,
): void {
  const inverse = inverseOf(increment);
  if (frames >= LEAST_FRAMES && areSparse(increment)) {
    const lanes = scratch(PHASES);
    v128.store(lanes, wideLow(state.high, state.low));
    v128.store(lanes, wideHigh(state.high, state.low), 16);
    v128.store(lanes, wideLow(stepHigh, stepLow), 32);
    v128.store(lanes, wideHigh(stepHigh, stepLow), 48);
    v128.store(lanes, inverse, 64);
    runSharpSaw(state, out, level, levelStride, frames, stepHigh, stepLow);
    for (let k: usize = 0; k < 4; ++k)
      roundLane(
        out + (k << 2),
        level + (k << 2),
        levelStride,
        frames,
        load<u64>(lanes + (k << 3)),
        load<u64>(lanes + (k << 3), 32),
        load<f32>(lanes + (k << 2), 64),
      );
    return;
  }
  const reach = at(stepLimits, 0),
    unit = at(COMMON, PER_CYCLE),
    signs = at(COMMON, SIGN),
    one = at(COMMON, ONE);
  let high = state.high,
    low = state.low;
  for (let end = out + (frames << 4); out < end; out += 16) {
    const s = mul(f32x4.convert_i32x4_s(high), unit);
    const direction = v128.or(v128.and(s, signs), one);
    let y = sub(add(s, s), direction);
    const size = mul(f32x4.abs(s), inverse);
    if (v128.any_true(f32x4.lt(size, reach))) {
      const lacking = mul(direction, lookUp(stepTable, size));
      y = add(y, add(lacking, lacking));
    }
    v128.store(out, mul(v128.load(level), y));
    level += levelStride;
    const nextLow = i32x4.add(low, stepLow);
    high = i32x4.sub(i32x4.add(high, stepHigh), i32x4.lt_u(nextLow, low));
    low = nextLow;
  }
  state.high = high;
  state.low = low;
}

/** Fewer frames than this are not worth looking for corners. */
const LEAST_FRAMES: u32 = 8;
/** Cycles a frame, all lanes together, below which corners one by one cost less than a look at every frame. */
const SPARSE: f32 = 0.08;
/** Points of the step table a cycle of 2^32 by its inverse increment. */
const POINTS_PER_FIXED: f32 = <f32>STEP_POINTS / <f32>4294967296.0;
/** Frames before and after a corner within which something may be lacking: its reach, and what rounding adds. */
const AROUND: f64 = <f64>STEP_REACH + 0.01;

/** True when every phase runs forwards and corners are few. */
// @ts-ignore: decorator
@inline function areSparse(increment: v128): bool {
  const pairs = add(increment, v128.shuffle<i32>(increment, increment, 2, 3, 0, 1));
  return (
    !v128.any_true(f32x4.le(increment, splat(0))) &&
    f32x4.extract_lane(pairs, 0) + f32x4.extract_lane(pairs, 1) < SPARSE
  );
}

/** Lanes 0 and 1 (or 2 and 3) of two vectors as 64-bit numbers. */
// @ts-ignore: decorator
@inline function wideLow(high: v128, low: v128): v128 {
  return v128.shuffle<i32>(low, high, 0, 4, 1, 5);
}
// @ts-ignore: decorator
@inline function wideHigh(high: v128, low: v128): v128 {
  return v128.shuffle<i32>(low, high, 2, 6, 3, 7);
}

/** The saw as if corners were sharp, and the phase on its way. */
function runSharpSaw(
  state: P.State,
  out: usize,
  level: usize,
  levelStride: usize,
  frames: u32,
  stepHigh: v128,
  stepLow: v128,
): void {
  const perHalf = at(COMMON, PER_HALF_CYCLE),
    signs = at(COMMON, SIGN),
    one = at(COMMON, ONE);
  const stepA = wideLow(stepHigh, stepLow),
    stepB = wideHigh(stepHigh, stepLow);
  let a = wideLow(state.high, state.low),
    b = wideHigh(state.high, state.low);
  let gain = v128.load(level);
  for (let end = out + (frames << 4); out < end; out += 16) {
    const s = f32x4.convert_i32x4_s(v128.shuffle<i32>(a, b, 1, 3, 5, 7));
    if (levelStride) {
      gain = v128.load(level);
      level += levelStride;
    }
    v128.store(out, mul(gain, sub(mul(s, perHalf), v128.or(v128.and(s, signs), one))));
    a = i64x2.add(a, stepA);
    b = i64x2.add(b, stepB);
  }
  state.high = v128.shuffle<i32>(a, b, 1, 3, 5, 7);
  state.low = v128.shuffle<i32>(a, b, 0, 2, 4, 6);
}

/**
 * Writes one lane of a sharp saw anew around each of its corners, eight frames at a time, by the very expression that
 * holds for every frame: it makes no difference how many are looked at. `k`: bytes into the vectors.
 */
function roundLane(
  out: usize,
  level: usize,
  levelStride: usize,
  frames: u32,
  phase: u64,
  step: u64,
  inverse: f32,
): void {
  if (step == 0) return;
  // Table points for a phase as it was converted: powers of two change no digit.
  const points = splat(inverse * POINTS_PER_FIXED);
  // Ways of 0…3 frames.
  const two = step + step,
    three = two + step;
  const wayHigh = i32x4(0, <i32>(step >> 32), <i32>(two >> 32), <i32>(three >> 32)),
    wayLow = i32x4(0, <i32>step, <i32>two, <i32>three);
  const period = 18446744073709551616.0 / <f64>step,
    end = <f64>frames + AROUND;
  let gain = v128.load32_splat(level);
  for (let t = <f64>(<u64>0 - phase) / <f64>step - period; t < end; t += period) {
    // Mostly 24 frames: those that the corner's reach covers.
    const first = t < AROUND ? 0 : <i32>(t - AROUND) + 1,
      last = min(<i32>(t + AROUND) + 1, <i32>frames);
    for (let next = first; next < last; next += 8) {
      const f = min(next, <i32>frames - 8),
        now = phase + <u64>f * step,
        then = now + (step << 2);
      const sumLow = i32x4.add(i32x4.splat(<i32>now), wayLow),
        sumLow2 = i32x4.add(i32x4.splat(<i32>then), wayLow);
      const s = f32x4.convert_i32x4_s(
          i32x4.sub(i32x4.add(i32x4.splat(<i32>(now >> 32)), wayHigh), i32x4.lt_u(sumLow, wayLow)),
        ),
        s2 = f32x4.convert_i32x4_s(
          i32x4.sub(i32x4.add(i32x4.splat(<i32>(then >> 32)), wayHigh), i32x4.lt_u(sumLow2, wayLow)),
        );
      const t1 = lookUpPoint(stepTable, mul(f32x4.abs(s), points)),
        t2 = lookUpPoint(stepTable, mul(f32x4.abs(s2), points));
      let gain2 = gain;
      if (levelStride) {
        gain = gathered(level + (f << 4));
        gain2 = gathered(level + ((f + 4) << 4));
      }
      const y = mul(gain, roundedSaw(s, t1)),
        y2 = mul(gain2, roundedSaw(s2, t2)),
        p = out + (f << 4);
      v128.store_lane<f32>(p, y, 0);
      v128.store_lane<f32>(p, y, 1, 16);
      v128.store_lane<f32>(p, y, 2, 32);
      v128.store_lane<f32>(p, y, 3, 48);
      v128.store_lane<f32>(p, y2, 0, 64);
      v128.store_lane<f32>(p, y2, 1, 80);
      v128.store_lane<f32>(p, y2, 2, 96);
      v128.store_lane<f32>(p, y2, 3, 112);
    }
  }
}

/** One lane of four frames. */
// @ts-ignore: decorator
@inline function gathered(p: usize): v128 {
  return f32x4(load<f32>(p), load<f32>(p, 16), load<f32>(p, 32), load<f32>(p, 48));
}
/** A saw at a phase as it was converted, with what its corner lacks by magnitude. */
// @ts-ignore: decorator
@inline function roundedSaw(s: v128, size: v128): v128 {
  const sign = v128.and(s, at(COMMON, SIGN)),
    lacking = v128.xor(size, sign);
  return add(sub(mul(s, at(COMMON, PER_HALF_CYCLE)), v128.or(sign, at(COMMON, ONE))), add(lacking, lacking));
}

export function writeSaw(out: usize, level: usize, levelStride: usize, frames: u32, constant: bool): void {
  const phases = scratch(PHASES);
  let increments = scratch(INCREMENTS);
  const corners = cornersFor(widestIncrement(increments, constant ? 1 : frames));
  let inverse = inverseOf(v128.load(increments));
  for (let f: u32 = 0; f < frames; ++f) {
    if (!constant) {
      inverse = inverseOf(v128.load(increments));
      increments += 16;
    }
    const s = signedCycles(v128.load(phases + (f << 4)));
    v128.store(out + (f << 4), mul(v128.load(level), sawAt(s, inverse, corners)));
    level += levelStride;
  }
}
