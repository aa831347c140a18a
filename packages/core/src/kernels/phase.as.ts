// Pitch to frequency to phase, shared by every source that runs a phase. A phase is 64-bit fixed point per lane: `high`
// counts cycles in 1/2^32, `low` what is smaller still, so that pitch stays exact and a slow phase never sticks.
import { isCabled, pointerTo, sampleRate, signalAt, strideOf } from "./instance.as";
import { add, clamp, exp2, madd, mul, select, splat, sub } from "./simd.as";

export const C4: f32 = 261.6256;
const TO_FIXED: f32 = 4294967296.0;

/** Frequency in hertz from pitch (where it has a cable and tracking is on) or the frequency field, and tuning. */
// @ts-ignore: decorator
@inline export function baseFrequency(
  pitch: v128,
  cabled: bool,
  tracking: v128,
  frequency: v128,
  factor: v128,
  octave: v128,
  semitones: v128,
  fine: v128,
): v128 {
  const tracks = v128.and(i32x4.splat(cabled ? -1 : 0), f32x4.gt(tracking, splat(0.5)));
  let x = madd(semitones, splat(1.0 / 12.0), octave);
  x = madd(fine, splat(1.0 / 1200.0), x);
  x = add(x, v128.and(tracks, pitch));
  return mul(select(mul(splat(C4), factor), frequency, tracks), exp2(x));
}

/** Moves a phase on by a frequency in hertz and stores it: `high` at `at`, `low` in the vector behind it. */
// @ts-ignore: decorator
@inline export function stepPhase(at: usize, high: v128, low: v128, hertz: v128): void {
  const fixed = mul(
    clamp(hertz, splat(-0.5 * sampleRate), splat(0.5 * sampleRate)),
    splat(TO_FIXED / sampleRate),
  );
  const whole = f32x4.floor(fixed);
  // Through the signed conversion: the unsigned one is many instructions on most machines.
  const part = v128.xor(
    i32x4.trunc_sat_f32x4_s(mul(sub(sub(fixed, whole), splat(0.5)), splat(TO_FIXED))),
    i32x4.splat(<i32>0x80000000),
  );
  const nextLow = i32x4.add(low, part);
  v128.store(at, i32x4.sub(i32x4.add(high, i32x4.trunc_sat_f32x4_s(whole)), i32x4.lt_u(nextLow, low)));
  v128.store(at, nextLow, 16);
}

/** Phase within 0…1, never 1. */
// @ts-ignore: decorator
@inline export function unsignedPhase(high: v128): v128 {
  return mul(f32x4.convert_i32x4_s(i32x4.shr_u(high, 8)), splat(5.9604644775390625e-8));
}
/** Phase within -0.5…0.5. */
// @ts-ignore: decorator
@inline export function signedPhase(high: v128): v128 {
  return mul(f32x4.convert_i32x4_s(high), splat(2.3283064365386963e-10));
}
/** Cycles, wrapped, as fixed point to add to a phase. */
// @ts-ignore: decorator
@inline export function fixedCycles(cycles: v128): v128 {
  return i32x4.trunc_sat_f32x4_s(mul(sub(cycles, f32x4.nearest(cycles)), splat(TO_FIXED)));
}

/** Where the tuning of a source stands in its instance; 0 for what it does not have. */
let pitchSlot: usize = 0,
  trackingSlot: usize = 0,
  frequencySlot: usize = 0,
  factorSlot: usize = 0,
  octaveSlot: usize = 0,
  semitonesSlot: usize = 0,
  fineSlot: usize = 0;
export function tuningSlots(
  pitch: usize,
  tracking: usize,
  frequency: usize,
  factor: usize,
  octave: usize,
  semitones: usize,
  fine: usize,
): void {
  pitchSlot = pitch;
  trackingSlot = tracking;
  frequencySlot = frequency;
  factorSlot = factor;
  octaveSlot = octave;
  semitonesSlot = semitones;
  fineSlot = fine;
}

/** What stands in for a slot a source does not have: constant 0 and 1. */
const zero: usize = memory.data<f32>([0, 0, 0, 0], 16);
const one: usize = memory.data<f32>([1, 1, 1, 1], 16);

/**
 * Frequencies in hertz of a block into a row, from the slots given before. True when they are constant: then only the
 * first vector of the row is written.
 */
export function frequencyRow(instance: usize, g: u32, frame: u32, frames: u32, row: usize): bool {
  const pitch = signalAt(instance, pitchSlot);
  let p0 = pointerTo(pitch, g, frame),
    s0 = strideOf(pitch, g);
  let p1 = one,
    p2 = zero,
    p3 = one,
    p4 = zero,
    p5 = zero,
    p6 = zero;
  let s1: usize = 0,
    s2: usize = 0,
    s3: usize = 0,
    s4: usize = 0,
    s5: usize = 0,
    s6: usize = 0;
  if (trackingSlot) {
    const s = signalAt(instance, trackingSlot);
    p1 = pointerTo(s, g, frame);
    s1 = strideOf(s, g);
  }
  if (frequencySlot) {
    const s = signalAt(instance, frequencySlot);
    p2 = pointerTo(s, g, frame);
    s2 = strideOf(s, g);
  }
  if (factorSlot) {
    const s = signalAt(instance, factorSlot);
    p3 = pointerTo(s, g, frame);
    s3 = strideOf(s, g);
  }
  if (octaveSlot) {
    const s = signalAt(instance, octaveSlot);
    p4 = pointerTo(s, g, frame);
    s4 = strideOf(s, g);
  }
  if (semitonesSlot) {
    const s = signalAt(instance, semitonesSlot);
    p5 = pointerTo(s, g, frame);
    s5 = strideOf(s, g);
  }
  if (fineSlot) {
    const s = signalAt(instance, fineSlot);
    p6 = pointerTo(s, g, frame);
    s6 = strideOf(s, g);
  }
  // Without a frequency field an unconnected pitch is C4.
  const cabled = isCabled(pitch) || !frequencySlot;
  const steady = (s0 | s1 | s2 | s3 | s4 | s5 | s6) == 0;
  for (let f: u32 = 0, n: u32 = steady ? 1 : frames; f < n; ++f) {
    v128.store(
      row + (f << 4),
      baseFrequency(
        v128.load(p0),
        cabled,
        v128.load(p1),
        v128.load(p2),
        v128.load(p3),
        v128.load(p4),
        v128.load(p5),
        v128.load(p6),
      ),
    );
    p0 += s0;
    p1 += s1;
    p2 += s2;
    p3 += s3;
    p4 += s4;
    p5 += s5;
    p6 += s6;
  }
  return steady;
}
