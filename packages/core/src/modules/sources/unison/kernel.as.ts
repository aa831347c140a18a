// Unison: the copies of a voice stand in the lanes of vectors, four at a time. Two voices make one group of four lanes
// (left and right of each); a group's state holds four vectors of phases for each of its two voices.
import * as P from "../../../generated/unison.as";
import { scratch } from "../../../kernels/scratch.as";
import { sampleRate } from "../../../kernels/time.as";
import { fixedCycles, frequencyRow, signedPhase } from "../../../kernels/phase.as";
import { add, exp2, madd, mixBits, mul, select, sineOfCycles, splat, sub } from "../../../kernels/simd.as";
import { cornersIn, inverseOf, sawAt, steps, triangleAt } from "../../../kernels/corners.as";
import { riseRow } from "../../../kernels/edges.as";

const TO_FIXED: f32 = 4294967296.0;
const FREQUENCIES: u32 = 0,
  LEFT: u32 = 1,
  RIGHT: u32 = 2,
  WORK: u32 = 3,
  RISES: u32 = 4;


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
@inline function across(x: v128): f32 {
  const y = add(x, v128.shuffle<i32>(x, x, 2, 3, 0, 1));
  return f32x4.extract_lane(add(y, v128.shuffle<i32>(y, y, 1, 0, 3, 2)), 0);
}


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

export function process(m: P.Module, frame: u32, frames: u32): void {
  const out = m.outOut;
  const copies = <i32>m.copies,
    shape = m.shape,
    sets = (copies + 3) >> 2;
  const detune = m.detune,
    spread = m.spread,
    blend = m.blend,
    width = m.width,
    gain = m.level,
    phaseIn = m.phase;
  const voices = m.voiceCount,
    turned = phaseIn.isCabled;
  for (let g: u32 = 0, groups = m.groups; g < groups; ++g) {
    const state = m.state(g),
      row = scratch(FREQUENCIES),
      left = scratch(LEFT),
      right = scratch(RIGHT),
      work = scratch(WORK);
    if (!v128.any_true(state.started)) {
      const seeds = m.laneSeeds(g);
      for (let n: i32 = 0; n < 8; ++n) {
        const seed = n < 4 ? i32x4.extract_lane(seeds, 0) : i32x4.extract_lane(seeds, 2);
        v128.store(
          state.phasesAt + (n << 4),
          mixBits(
            i32x4.add(
              i32x4.splat(seed),
              i32x4.mul(i32x4.add(i32x4.splat((n & 3) << 2), i32x4(1, 2, 3, 4)), i32x4.splat(0x2545f491)),
            ),
          ),
        );
      }
      state.started = i32x4.splat(-1);
    }
    const steady = frequencyRow(g, frame, frames, row, m.pitch, m.octave, m.semitones, m.fine);
    const still = (detune.step(g) | spread.step(g) | blend.step(g)) == 0;
    const rises = scratch(RISES),
      resets = riseRow(state.resetBeforeAt, m.reset, g, frame, frames, rises);
    const target: usize = out.isWanted ? out.write(g, frame) : 0;
    for (let k: u32 = 0; k < 2; ++k) {
      if ((g << 1) + k >= voices) {
        if (target) for (let f: u32 = 0; f < frames; ++f) store<u64>(target + (f << 4) + (k << 3), 0);
        continue;
      }
      memory.fill(left, 0, frames << 4);
      memory.fill(right, 0, frames << 4);
      for (let n = 0; n < sets; ++n) {
        const at = state.phasesAt + ((<usize>(k * 4 + n)) << 4),
          lowAt = state.lowsAt + ((<usize>(k * 4 + n)) << 4);
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
              laneOf(detune.at(g, now), k),
              laneOf(spread.at(g, now), k),
              laneOf(blend.at(g, now), k),
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
          const phase = turned ? i32x4.add(high, fixedCycles(splat(laneOf(phaseIn.at(g, now), k)))) : high;
          const w = splat(laneOf(width.at(g, now), k));
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
          b = laneOf(blend.at(g, now), k);
        const inner: f32 = copies & 1 ? 1 : 2,
          outer = <f32>copies - min<f32>(inner, <f32>copies);
        // Copies are independent: their powers add. In the middle a side has half of it.
        const loud =
          (laneOf(gain.at(g, now), k) * <f32>1.4142135) /
          sqrt<f32>(min<f32>(inner, <f32>copies) + outer * b * b);
        const p = target + (f << 4) + (k << 3);
        store<f32>(p, across(v128.load(left + (f << 4))) * loud);
        store<f32>(p, across(v128.load(right + (f << 4))) * loud, 4);
      }
    }
  }
}
