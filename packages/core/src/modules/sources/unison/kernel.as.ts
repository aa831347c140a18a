// Unison: the copies of a voice stand in the lanes of vectors, four at a time. Two voices make one group of four lanes
// (left and right of each); a group's state holds four vectors of phases for each of its two voices.
import * as P from "../../../generated/unison.as";
import {
  choiceOf,
  groupsOf,
  isCabled,
  isWanted,
  laneSeedsOf,
  numberOf,
  peek,
  sampleRate,
  scratch,
  signalAt,
  stateOf,
  strideOf,
  voicesOf,
  writeTo,
} from "../../../kernels/instance.as";
import { fixedCycles, frequencyRow, signedPhase, tuningSlots } from "../../../kernels/phase.as";
import { add, exp2, madd, mixBits, mul, select, sineOfCycles, splat, sub } from "../../../kernels/simd.as";
import { cornersIn, inverseOf, sawAt, steps, triangleAt } from "../../../kernels/corners.as";
import { riseRow } from "../../../kernels/edges.as";

const TO_FIXED: f32 = 4294967296.0;
const FREQUENCIES: u32 = 0,
  LEFT: u32 = 1,
  RIGHT: u32 = 2,
  WORK: u32 = 3,
  RISES: u32 = 4;

// @ts-ignore: decorator
@inline function wave(
  shape: i32,
  phase: v128,
  increment: v128,
  inverse: v128,
  corners: i32,
  width: v128,
): v128 {
  const s = signedPhase(phase);
  if (shape == P.SHAPE_SINE) return sineOfCycles(s);
  if (shape == P.SHAPE_SAW) return sawAt(s, inverse, corners);
  if (shape == P.SHAPE_TRIANGLE)
    return triangleAt(
      s,
      signedPhase(i32x4.add(phase, i32x4.splat(<i32>0x80000000))),
      increment,
      inverse,
      corners,
    );
  const p = add(s, v128.and(f32x4.lt(s, splat(0)), splat(1))),
    fall = sub(p, width),
    fallNear = sub(fall, f32x4.nearest(fall));
  return madd(
    splat(2),
    sub(steps(fallNear, inverse, corners), steps(s, inverse, corners)),
    select(splat(-1), splat(1), f32x4.ge(p, width)),
  );
}

/** Sum of the four lanes. */
// @ts-ignore: decorator
@inline function across(x: v128): f32 {
  const y = add(x, v128.shuffle<i32>(x, x, 2, 3, 0, 1));
  return f32x4.extract_lane(add(y, v128.shuffle<i32>(y, y, 1, 0, 3, 2)), 0);
}

// @ts-ignore: decorator
@inline function laneOf(x: v128, k: u32): f32 {
  return k ? f32x4.extract_lane(x, 2) : f32x4.extract_lane(x, 0);
}

/** Detune ratios and gains of four copies: kept in the working row behind one another. */
function place(copies: i32, base: i32, detune: f32, spread: f32, blend: f32, at: usize): void {
  const middle = <f32>(copies - 1) * 0.5;
  for (let k = 0; k < 4; ++k) {
    const i = base + k,
      o = (<usize>k) << 2;
    const from: f32 = copies > 1 ? (<f32>i - middle) / max<f32>(middle, 0.5) : 0;
    const inner = Math.abs(<f64>i - <f64>middle) < 0.75;
    const gain: f32 = i >= copies ? 0 : inner ? 1 : blend;
    // Neighbours go to opposite sides.
    const side: f32 = spread * from * (i & 1 ? -1 : 1);
    store<f32>(at + o, from * detune * <f32>(1.0 / 1200.0));
    store<f32>(at + o, gain, 16);
    store<f32>(at + o, side, 32);
  }
  v128.store(at, exp2(v128.load(at)));
  const side = v128.load(at, 32),
    gain = v128.load(at, 16);
  v128.store(at, mul(gain, sineOfCycles(madd(side, splat(-0.125), splat(0.125)))), 16);
  v128.store(at, mul(gain, sineOfCycles(madd(side, splat(0.125), splat(0.125)))), 32);
}

export function process(instance: usize, frame: u32, frames: u32): void {
  const out = signalAt(instance, P.OUT_OUT);
  const copies = <i32>numberOf(instance, P.SET_COPIES),
    shape = choiceOf(instance, P.SET_SHAPE),
    sets = (copies + 3) >> 2;
  const detune = signalAt(instance, P.PARAM_DETUNE),
    spread = signalAt(instance, P.PARAM_SPREAD),
    blend = signalAt(instance, P.PARAM_BLEND),
    width = signalAt(instance, P.PARAM_WIDTH),
    gain = signalAt(instance, P.PARAM_LEVEL),
    phaseIn = signalAt(instance, P.IN_PHASE);
  const voices = voicesOf(instance),
    turned = isCabled(phaseIn);
  for (let g: u32 = 0, groups = groupsOf(instance); g < groups; ++g) {
    const state = stateOf(instance, g),
      row = scratch(FREQUENCIES),
      left = scratch(LEFT),
      right = scratch(RIGHT),
      work = scratch(WORK);
    if (!v128.any_true(v128.load(state + P.STATE_STARTED))) {
      const seeds = laneSeedsOf(instance, g);
      for (let n: i32 = 0; n < 8; ++n) {
        const seed = n < 4 ? i32x4.extract_lane(seeds, 0) : i32x4.extract_lane(seeds, 2);
        v128.store(
          state + P.STATE_PHASES + (n << 4),
          mixBits(
            i32x4.add(
              i32x4.splat(seed),
              i32x4.mul(i32x4.add(i32x4.splat((n & 3) << 2), i32x4(1, 2, 3, 4)), i32x4.splat(0x2545f491)),
            ),
          ),
        );
      }
      v128.store(state + P.STATE_STARTED, i32x4.splat(-1));
    }
    tuningSlots(P.IN_PITCH, 0, 0, 0, P.PARAM_OCTAVE, P.PARAM_SEMITONES, P.PARAM_FINE);
    const steady = frequencyRow(instance, g, frame, frames, row);
    const still = (strideOf(detune, g) | strideOf(spread, g) | strideOf(blend, g)) == 0;
    const rises = scratch(RISES),
      resets = riseRow(state + P.STATE_RESETBEFORE, signalAt(instance, P.IN_RESET), g, frame, frames, rises);
    const target: usize = isWanted(out) ? writeTo(out, g, frame) : 0;
    for (let k: u32 = 0; k < 2; ++k) {
      if ((g << 1) + k >= voices) {
        if (target) for (let f: u32 = 0; f < frames; ++f) store<u64>(target + (f << 4) + (k << 3), 0);
        continue;
      }
      memory.fill(left, 0, frames << 4);
      memory.fill(right, 0, frames << 4);
      for (let n = 0; n < sets; ++n) {
        const at = state + P.STATE_PHASES + ((<usize>(k * 4 + n)) << 4),
          lowAt = state + P.STATE_LOWS + ((<usize>(k * 4 + n)) << 4);
        let high = v128.load(at),
          low = v128.load(lowAt),
          stepHigh = splat(0),
          stepLow = splat(0),
          increment = splat(0),
          inverse = splat(0),
          corners = 0;
        for (let f: u32 = 0; f < frames; ++f) {
          const now = frame + f;
          if (resets && load<u32>(rises + (f << 4) + (k << 3))) {
            high = i32x4.splat(0);
            low = high;
          }
          if (f == 0 || !still)
            place(
              copies,
              n << 2,
              laneOf(peek(detune, g, now), k),
              laneOf(peek(spread, g, now), k),
              laneOf(peek(blend, g, now), k),
              work,
            );
          if (f == 0 || !steady || !still) {
            const hertz = f32x4.pmin(
              mul(splat(laneOf(v128.load(steady ? row : row + (f << 4)), k)), v128.load(work)),
              splat(0.5 * sampleRate),
            );
            increment = mul(hertz, splat(1 / sampleRate));
            inverse = inverseOf(increment);
            corners = cornersIn(increment);
            const fixed = mul(hertz, splat(TO_FIXED / sampleRate)),
              whole = f32x4.floor(fixed);
            stepHigh = i32x4.trunc_sat_f32x4_s(whole);
            stepLow = i32x4.trunc_sat_f32x4_u(mul(sub(fixed, whole), splat(TO_FIXED)));
          }
          const phase = turned ? i32x4.add(high, fixedCycles(splat(laneOf(peek(phaseIn, g, now), k)))) : high;
          const w = splat(laneOf(peek(width, g, now), k));
          let y = splat(0);
          if (shape == P.SHAPE_SAW) y = wave(P.SHAPE_SAW, phase, increment, inverse, corners, w);
          else if (shape == P.SHAPE_PULSE) y = wave(P.SHAPE_PULSE, phase, increment, inverse, corners, w);
          else if (shape == P.SHAPE_TRIANGLE)
            y = wave(P.SHAPE_TRIANGLE, phase, increment, inverse, corners, w);
          else y = wave(P.SHAPE_SINE, phase, increment, inverse, corners, w);
          const l = left + (f << 4),
            r = right + (f << 4);
          v128.store(l, madd(y, v128.load(work, 16), v128.load(l)));
          v128.store(r, madd(y, v128.load(work, 32), v128.load(r)));
          const nextLow = i32x4.add(low, stepLow);
          high = i32x4.sub(i32x4.add(high, stepHigh), i32x4.lt_u(nextLow, low));
          low = nextLow;
        }
        v128.store(at, high);
        v128.store(lowAt, low);
      }
      if (!target) continue;
      for (let f: u32 = 0; f < frames; ++f) {
        const now = frame + f,
          b = laneOf(peek(blend, g, now), k);
        const inner: f32 = copies & 1 ? 1 : 2,
          outer = <f32>copies - min<f32>(inner, <f32>copies);
        // Copies are independent: their powers add. In the middle a side has half of it.
        const loud =
          (laneOf(peek(gain, g, now), k) * <f32>1.4142135) /
          sqrt<f32>(min<f32>(inner, <f32>copies) + outer * b * b);
        const p = target + (f << 4) + (k << 3);
        store<f32>(p, across(v128.load(left + (f << 4))) * loud);
        store<f32>(p, across(v128.load(right + (f << 4))) * loud, 4);
      }
    }
  }
}
