// Pitch to frequency to phase, shared by every source that runs a phase. A phase is 64-bit fixed point per lane: `high`
// counts cycles in 1/2^32, `low` what is smaller still, so that pitch stays exact and a slow phase never sticks.
import { ONE, Signal, ZERO } from "./signal.as";
import { sampleRate } from "./time.as";
import { add, clamp, exp2, madd, mul, select, splat, sub } from "./simd.as";

export const C4: f32 = 261.6256;
const TO_FIXED: f32 = 4294967296.0;

/** Frequency in hertz from pitch (where it has a cable and tracking is on) or the frequency field, and tuning. */
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

/** What stepPhase moves one lane on by, as 64-bit fixed point. */
export function fixedStep(hertz: f32): u64 {
  const fixed = min<f32>(max<f32>(hertz, -0.5 * sampleRate), 0.5 * sampleRate) * (TO_FIXED / sampleRate),
    whole = floor<f32>(fixed),
    part = (<u32>(<i32>((fixed - whole - 0.5) * TO_FIXED))) ^ 0x80000000;
  return ((<u64>(<i64>whole)) << 32) + <u64>part;
}

/** Phase within 0…1, never 1. */
@inline export function unsignedPhase(high: v128): v128 {
  return mul(f32x4.convert_i32x4_s(i32x4.shr_u(high, 8)), splat(5.9604644775390625e-8));
}
/** Phase within -0.5…0.5. */
@inline export function signedPhase(high: v128): v128 {
  return mul(f32x4.convert_i32x4_s(high), splat(2.3283064365386963e-10));
}
/** Cycles, wrapped, as fixed point to add to a phase. */
@inline export function fixedCycles(cycles: v128): v128 {
  return i32x4.trunc_sat_f32x4_s(mul(sub(cycles, f32x4.nearest(cycles)), splat(TO_FIXED)));
}

/**
 * Frequencies in hertz of a block into a row, by pitch (C4 where it has no cable) and tuning; `octave` and `semitones` may
 * be `zeroSignal`. True when they are constant: then only the first vector of the row is written.
 */
export function frequencyRow(
  g: u32,
  frame: u32,
  frames: u32,
  row: usize,
  pitch: Signal,
  octave: Signal,
  semitones: Signal,
  fine: Signal,
): bool {
  return fillFrequencies(g, frame, frames, row, pitch, true, ONE, ZERO, ONE, octave, semitones, fine);
}

/** The same for a source with a frequency field, which stands where `tracking` is off or the pitch has no cable. */
export function trackedRow(
  g: u32,
  frame: u32,
  frames: u32,
  row: usize,
  pitch: Signal,
  tracking: Signal,
  frequency: Signal,
  factor: Signal,
  octave: Signal,
  semitones: Signal,
  fine: Signal,
): bool {
  const cabled = pitch.isCabled;
  return fillFrequencies(
    g,
    frame,
    frames,
    row,
    pitch,
    cabled,
    tracking,
    frequency,
    factor,
    octave,
    semitones,
    fine,
  );
}


@inline function fillFrequencies(
  g: u32,
  frame: u32,
  frames: u32,
  row: usize,
  pitch: Signal,
  cabled: bool,
  tracking: Signal,
  frequency: Signal,
  factor: Signal,
  octave: Signal,
  semitones: Signal,
  fine: Signal,
): bool {
  let p0 = pitch.row(g, frame),
    p1 = tracking.row(g, frame),
    p2 = frequency.row(g, frame),
    p3 = factor.row(g, frame),
    p4 = octave.row(g, frame),
    p5 = semitones.row(g, frame),
    p6 = fine.row(g, frame);
  const s0 = pitch.step(g),
    s1 = tracking.step(g),
    s2 = frequency.step(g),
    s3 = factor.step(g),
    s4 = octave.step(g),
    s5 = semitones.step(g),
    s6 = fine.step(g);
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
