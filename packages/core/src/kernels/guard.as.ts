// The ear guard: DC blocker, hard stop, true-peak limiter. One for each of the four output pairs.
//
// Limiter: what both sides need, by the louder, looked ahead for (lookahead) and measured between samples (truepeak).
import { sampleRate } from "./time.as";
import { isOpen, nextGain, PEAK_HOLD } from "./lookahead.as";
import { higher, splat } from "./simd.as";
import { peakFrom, PEAK_REACH, PEAK_STRIP, sane, seenBound } from "./truepeak.as";

const PAIRS: u32 = 4;
const WINDOW: u32 = 64;
/** Samples a peak is known late, the mean, and the standstill around it. */
export const GUARD_LATENCY: u32 = PEAK_REACH + WINDOW + PEAK_HOLD - 1;
/** -1 dBTP. */
const CEILING: f32 = 0.8912509;
const RELEASE_SECONDS: f32 = 0.08;
const DC_CORNER: f64 = 2.0;
/**
 * A level that stays above +24 dB for this long stops the sound. A wave stays above while its peaks do: each counts for
 * a period of 40 Hz.
 */
const STOP_LEVEL: f32 = 15.848932;
const STOP_SECONDS: f32 = 0.1,
  PEAK_SECONDS: f32 = 0.025;

/** What modules add up, both sides of a frame side by side; and what leaves, 128 frames of one side, then of the other. */
const buses: usize = memory.data(4 * 1024, 16);
const planes: usize = memory.data(4 * 1024, 16);
const PLANE: usize = 512;
/** Per pair: last input and output of the DC blocker (two f64 each), then words, then rings of sound and gains. */
const INPUT: usize = 0,
  BLOCKED: usize = 16,
  LOUD: usize = 32,
  PEAKING: usize = 36,
  STOPPED: usize = 40,
  POSITION: usize = 44,
  LIMITED: usize = 48,
  FADE: usize = 52,
  LEAST_GAIN: usize = 56,
  BUSY: usize = 60,
  SILENT: usize = 64,
  SOUND: usize = 80,
  GAINS: usize = 4176;
/** Vectors of the two rings: a segment is written before it is read, and all around it is looked at. */
const SOUND_MASK: u32 = 255,
  GAIN_VECTORS: u32 = 128;
const PAIR_BYTES: usize = 8336;
const states: usize = memory.data(4 * 8336, 16);

export function busOf(pair: u32): usize {
  return buses + min(pair, PAIRS - 1) * 1024;
}
/** What the guard let out of a pair: 128 samples of the left side, then of the right. */
export function planeOf(pair: u32): usize {
  return planes + min(pair, PAIRS - 1) * 1024;
}
export function clearBuses(frames: u32): void {
  for (let p: u32 = 0; p < PAIRS; ++p) memory.fill(busOf(p), 0, frames << 3);
}

export function prepareGuard(): void {
  for (let p: u32 = 0; p < PAIRS; ++p) resetGuard(p, 1);
}

/** Clears a pair's guard; `fade` 0 starts a 20 ms fade-in, 1 starts open. */
export function resetGuard(pair: u32, fade: f32): void {
  const s = states + pair * PAIR_BYTES;
  memory.fill(s, 0, PAIR_BYTES);
  store<f32>(s, fade, FADE);
  store<f32>(s, 1, LEAST_GAIN);
}

export function fadeIn(pair: u32): void {
  store<f32>(states + pair * PAIR_BYTES, 0, FADE);
}
/** Frames since the last look in which the limiter worked. */
export function limitedFrames(pair: u32): u32 {
  const s = states + pair * PAIR_BYTES;
  const n = load<u32>(s, LIMITED);
  store<u32>(s, 0, LIMITED);
  return n;
}
/** The least gain of the limiter since the last look, 1 where it did nothing. */
export function leastGain(pair: u32): f32 {
  const s = states + pair * PAIR_BYTES;
  const gain = load<f32>(s, LEAST_GAIN);
  store<f32>(s, 1, LEAST_GAIN);
  return gain;
}
export function isStopped(pair: u32): u32 {
  return load<u32>(states + pair * PAIR_BYTES, STOPPED);
}

/** Sound of one frame of a ring: left and right in the first two lanes. */
@inline function soundAt(s: usize, position: u32): usize {
  return s + SOUND + ((<usize>(position & SOUND_MASK)) << 4);
}

/** True while neither stop nor fade nor limiter is at work and no frame is loud enough to count for the stop. */
function isAtRest(s: usize, bus: usize, frames: u32): bool {
  if (load<u32>(s, STOPPED) || load<f32>(s, FADE) < 1 || load<u32>(s, BUSY)) return false;
  if (load<i32>(s, LOUD) || load<i32>(s, PEAKING)) return false;
  let most = splat(0);
  for (let p = bus, end = bus + (frames << 3); p < end; p += 8)
    most = higher(most, f32x4.abs(sane(v128.load64_zero(p))));
  return max(f32x4.extract_lane(most, 0), f32x4.extract_lane(most, 1)) <= STOP_LEVEL;
}

/** DC blocker of both sides at once, in 64 bits: y = x - x1 + keep y1. Writes into the ring of sound. */
function blockDc(s: usize, bus: usize, frames: u32, active: u32): void {
  const keep = f64x2.splat(1.0 - (2.0 * Math.PI * DC_CORNER) / <f64>sampleRate),
    least = f64x2.splat(1e-15);
  let x1 = v128.load(s, INPUT),
    y1 = v128.load(s, BLOCKED);
  const position = load<u32>(s, POSITION);
  for (let f: u32 = 0; f < frames; ++f) {
    const sides = sane(v128.load64_zero(bus + (f << 3))),
      x = f64x2.promote_low_f32x4(sides);
    y1 = f64x2.add(f64x2.sub(x, x1), f64x2.mul(keep, y1));
    y1 = v128.and(y1, f64x2.gt(f64x2.abs(y1), least));
    x1 = x;
    v128.store(soundAt(s, position + f), active ? f32x4.demote_f64x2_zero(y1) : sides);
  }
  v128.store(s, x1, INPUT);
  v128.store(s, y1, BLOCKED);
}

/** Can anything around the frames just written pass the ceiling? */
function isLoud(s: usize, position: u32, frames: u32): bool {
  const bound = seenBound(s + SOUND, SOUND_MASK, position + frames - 1, frames);
  return !i32x4.all_true(f32x4.le(bound, splat(CEILING)));
}

/** Writes both sides of a frame to where they leave. */
// @ts-ignore: decorator
@inline function letOut(plane: usize, f: u32, sides: v128): void {
  v128.store_lane<f32>(plane + (f << 2), sides, 0);
  v128.store_lane<f32>(plane + (f << 2), sides, 1, PLANE);
}

/** True when nothing comes in and nothing has for so long that all it remembers is silent. */
function isSilent(s: usize, bus: usize, frames: u32): bool {
  let any = v128.or(v128.load(s, INPUT), v128.load(s, BLOCKED));
  for (let p = bus, end = bus + (frames << 3); p < end; p += 8) any = v128.or(any, v128.load64_zero(p));
  const silent: u32 = v128.any_true(any) ? 0 : load<u32>(s, SILENT);
  store<u32>(s, v128.any_true(any) ? 0 : min(silent + frames, SOUND_MASK + 1), SILENT);
  return silent > SOUND_MASK;
}

/** Guards one segment of a pair. `active` 0 leaves only the delay (same timing) and the stop. */
export function guardOutput(pair: u32, frames: u32, active: u32): void {
  const s = states + pair * PAIR_BYTES,
    bus = busOf(pair),
    plane = planeOf(pair),
    position = load<u32>(s, POSITION),
    rests = isAtRest(s, bus, frames);
  if (isSilent(s, bus, frames) && rests) {
    memory.fill(plane, 0, frames << 2);
    memory.fill(plane + PLANE, 0, frames << 2);
    store<u32>(s, position + frames, POSITION);
    return;
  }
  blockDc(s, bus, frames, active);
  const loud = active != 0 && isLoud(s, position, frames);
  if (rests && !loud) {
    // Nothing to do but to wait: what came in leaves a little later.
    for (let f: u32 = 0; f < frames; ++f)
      letOut(plane, f, v128.load(soundAt(s, position + f - GUARD_LATENCY)));
    store<u32>(s, position + frames, POSITION);
    return;
  }
  let near = loud;
  for (let f: u32 = 0; f < frames; ++f) {
    if (loud && frames > PEAK_STRIP && f % PEAK_STRIP == 0)
      near = isLoud(s, position + f, min(PEAK_STRIP, frames - f));
    guardLevel(s, sane(v128.load64_zero(bus + (f << 3))));
    const gain = active ? limiterGain(s, position + f, near) : <f32>1;
    const out = v128.load(soundAt(s, position + f - GUARD_LATENCY));
    letOut(plane, f, f32x4.mul(out, splat(gain * nextFade(s))));
  }
  store<u32>(s, position + frames, POSITION);
}

/** Stops the sound when it stays far too loud before the guard. */
function guardLevel(s: usize, sides: v128): void {
  const size = f32x4.abs(sides),
    loudest = max(f32x4.extract_lane(size, 0), f32x4.extract_lane(size, 1));
  const left = loudest <= STOP_LEVEL ? load<i32>(s, PEAKING) - 1 : <i32>(PEAK_SECONDS * sampleRate);
  store<i32>(s, max(left, 0), PEAKING);
  const now = left > 0 ? load<i32>(s, LOUD) + 1 : 0;
  store<i32>(s, now, LOUD);
  if (now > <i32>(STOP_SECONDS * sampleRate)) store<u32>(s, 1, STOPPED);
}

/** Of the fade in after a start, or out after a stop. */
function nextFade(s: usize): f32 {
  const step: f32 = 1 / (0.02 * sampleRate);
  let fade = load<f32>(s, FADE);
  if (load<u32>(s, STOPPED)) fade = max(fade - step, 0);
  else if (fade < 1) fade = min(fade + step, 1);
  store<f32>(s, fade, FADE);
  return fade;
}

/** The limiter's gain for the sample that leaves; `loud` when anything around may pass the ceiling. */
function limiterGain(s: usize, position: u32, loud: bool): f32 {
  let need: f32 = 1;
  if (loud) {
    const peaks = peakFrom(s + SOUND, SOUND_MASK, position - PEAK_REACH),
      peak = max(f32x4.extract_lane(peaks, 0), f32x4.extract_lane(peaks, 1));
    if (peak > CEILING) need = CEILING / peak;
  }
  // All that the rings remember must be 1 again before it may rest.
  const busy = load<u32>(s, BUSY);
  if (!busy && need == 1) return 1;
  const gains = s + GAINS,
    keep = splat(1 - 1 / (RELEASE_SECONDS * sampleRate));
  const gain = f32x4.extract_lane(nextGain(gains, GAIN_VECTORS - 1, position, splat(need), WINDOW, keep), 0);
  store<u32>(s, need == 1 && isOpen(gains) ? busy - 1 : GAIN_VECTORS, BUSY);
  if (gain == 1) return 1;
  store<u32>(s, load<u32>(s, LIMITED) + 1, LIMITED);
  store<f32>(s, min(load<f32>(s, LEAST_GAIN), gain), LEAST_GAIN);
  return gain;
}
