// The ear guard: DC blocker, hard stop, true-peak limiter. One for each of the four output pairs.
//
// Limiter: the gain each moment needs, held over a window as long as the look-ahead, released slowly, averaged over the
// same window: the gain has arrived when the peak does, without steps. Gains are summed as integers, so that a signal
// under the ceiling passes untouched to the last bit. True peak: four-fold oversampling (ITU-R BS.1770-4, annex 2).
import { sampleRate } from "./instance.as";
import { splat } from "./simd.as";

const PAIRS: u32 = 4;
const WINDOW: u32 = 64;
/** Half the interpolation filter. */
const CENTRE: u32 = 6;
export const GUARD_LATENCY: u32 = 69;
const CEILING: f32 = 0.8912509; // -1 dBFS
/** The estimate between samples may be low by this much (0.1 dB). */
const MARGIN: f32 = 0.9886;
const RELEASE_SECONDS: f32 = 0.08;
const DC_CORNER: f64 = 2.0;
/**
 * A level that stays above +24 dB for this long stops the sound. A wave stays above while its peaks do: each counts for
 * a period of 40 Hz.
 */
const STOP_LEVEL: f32 = 15.848932;
const STOP_SECONDS: f32 = 0.1,
  PEAK_SECONDS: f32 = 0.025;
const UNITY: i64 = 1 << 30;

const buses: usize = memory.data(4 * 1024, 16);
// Per pair: [0] x1 L,R f64; [16] y1 L,R f64; [32] released gain f32; [36] loud frames i32; [40] stopped u32;
// [44] position u32; [48] sum i64; [56] limited frames u32; [60] fade f32;
// [1792] 16 recent samples L, twice in a row so that any 16 stand together, [1920] R; [192] needed gains 64; [448] released gains 64 (i32); [2048] delay 256 stereo (a block is written before it is read);
// [1728] frames for which the window still has to be searched, [1732] those for which the last peak still counts,
// [1736] the least gain since the last look.
const BUSY: usize = 1728,
  PEAKING: usize = 1732,
  LEAST_GAIN: usize = 1736,
  DELAY: usize = 2048;
const RECENT_LEFT: usize = 1792,
  RECENT_RIGHT: usize = 1920;
const PAIR_BYTES: usize = 4608;
const states: usize = memory.data(4 * 4608, 16);
/** Per tap: weights at 1/4, 1/2 and 3/4 of a sample, and the sample itself. */
const taps: usize = memory.data(16 * 12, 16);

export function busOf(pair: u32): usize {
  return buses + min(pair, PAIRS - 1) * 1024;
}
export function clearBuses(frames: u32): void {
  for (let p: u32 = 0; p < PAIRS; ++p) memory.fill(busOf(p), 0, frames << 3);
}

/** Windowed-sinc interpolators at 1/4, 1/2 and 3/4 of a sample, 12 taps. Built on the host's side. */
export function prepareGuard(): void {
  for (let phase = 0; phase < 3; ++phase) {
    const fraction = <f64>(phase + 1) / 4.0;
    let sum = 0.0;
    for (let t = 0; t < 12; ++t) {
      const x = <f64>(t - 5) - fraction;
      const window = 0.5 + 0.5 * Math.cos((Math.PI * x) / 6.5);
      const y = (Math.sin(Math.PI * x) / (Math.PI * x)) * window;
      sum += y;
      store<f32>(taps + (t << 4) + (phase << 2), <f32>y);
    }
    for (let t = 0; t < 12; ++t) {
      const at = taps + (t << 4) + (phase << 2);
      store<f32>(at, <f32>(<f64>load<f32>(at) / sum));
    }
  }
  store<f32>(taps + (5 << 4), 1, 12);
  for (let p: u32 = 0; p < PAIRS; ++p) resetGuard(p, 1);
}

/** Clears a pair's guard; `fade` 0 starts a 20 ms fade-in, 1 starts open. */
export function resetGuard(pair: u32, fade: f32): void {
  const s = states + pair * PAIR_BYTES;
  memory.fill(s, 0, PAIR_BYTES);
  store<f32>(s, 1, 32);
  store<i64>(s, UNITY * WINDOW, 48);
  store<f32>(s, fade, 60);
  store<f32>(s, 1, LEAST_GAIN);
  for (let i: u32 = 0; i < WINDOW; ++i) {
    store<f32>(s + 192 + (i << 2), 1);
    store<i32>(s + 448 + (i << 2), <i32>UNITY);
  }
}

export function fadeIn(pair: u32): void {
  store<f32>(states + pair * PAIR_BYTES, 0, 60);
}
/** Frames since the last look in which the limiter worked. */
export function limitedFrames(pair: u32): u32 {
  const s = states + pair * PAIR_BYTES;
  const n = load<u32>(s, 56);
  store<u32>(s, 0, 56);
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
  return load<u32>(states + pair * PAIR_BYTES, 40);
}

/** Largest magnitude around the sample CENTRE frames back, between samples included; `oldest` is 11 frames back. */
function truePeak(oldest: usize): f32 {
  let y = splat(0);
  for (let t: usize = 0; t < 12; ++t)
    y = f32x4.add(y, f32x4.mul(v128.load(taps + (t << 4)), v128.load32_splat(oldest + (t << 2))));
  y = f32x4.abs(y);
  return max(
    max(f32x4.extract_lane(y, 0), f32x4.extract_lane(y, 1)),
    max(f32x4.extract_lane(y, 2), f32x4.extract_lane(y, 3)),
  );
}

/** No 12-tap interpolator here has more than this much gain. */
const GREATEST_GAIN: f32 = 2;

/** Largest magnitude among the recent samples of both sides. */
// @ts-ignore: decorator
@inline function loudestNear(s: usize): f32 {
  let most = splat(0);
  for (let i: usize = 0; i < 64; i += 16)
    most = f32x4.pmax(
      most,
      f32x4.pmax(f32x4.abs(v128.load(s + RECENT_LEFT + i)), f32x4.abs(v128.load(s + RECENT_RIGHT + i))),
    );
  return max(
    max(f32x4.extract_lane(most, 0), f32x4.extract_lane(most, 1)),
    max(f32x4.extract_lane(most, 2), f32x4.extract_lane(most, 3)),
  );
}

/** True while nothing but the delay happens: no limiting, no fade, no stop, and nothing loud enough to start any. */
function isAtRest(s: usize, bus: usize, frames: u32): bool {
  if (
    load<u32>(s, 40) ||
    load<f32>(s, 60) < 1 ||
    load<u32>(s, BUSY) ||
    load<i64>(s, 48) != UNITY * WINDOW ||
    load<f32>(s, 32) != 1 ||
    load<i32>(s, 36)
  )
    return false;
  let most = splat(0);
  for (let p = bus, end = bus + (frames << 3); p < end; p += 8)
    most = f32x4.pmax(most, f32x4.abs(v128.load64_zero(p)));
  // The DC blocker may add up to as much again; NaN compares false.
  const loudest = max(f32x4.extract_lane(most, 0), f32x4.extract_lane(most, 1));
  return loudest < 0.4 && loudestNear(s) * GREATEST_GAIN <= CEILING * MARGIN;
}

/** DC blocker of both sides at once, in 64 bits: y = x - x1 + keep y1. Also keeps the delay and the recent samples. */
function blockDc(s: usize, bus: usize, frames: u32, active: u32): void {
  const keep = f64x2.splat(1.0 - (2.0 * Math.PI * DC_CORNER) / <f64>sampleRate),
    least = f64x2.splat(1e-15);
  let x1 = v128.load(s),
    y1 = v128.load(s, 16);
  let position = load<u32>(s, 44);
  for (let f: u32 = 0; f < frames; ++f) {
    let sides = v128.load64_zero(bus + (f << 3));
    // A NaN or infinity is not equal to itself less itself.
    sides = v128.and(sides, f32x4.eq(f32x4.sub(sides, sides), splat(0)));
    const x = f64x2.promote_low_f32x4(sides);
    y1 = f64x2.add(f64x2.sub(x, x1), f64x2.mul(keep, y1));
    y1 = v128.and(y1, f64x2.gt(f64x2.abs(y1), least));
    x1 = x;
    const clean = active ? f32x4.demote_f64x2_zero(y1) : sides;
    v128.store64_lane(s + DELAY + ((position & 255) << 3), clean, 0);
    const slot = (position & 15) << 2;
    v128.store32_lane(s + RECENT_LEFT + slot, clean, 0);
    v128.store32_lane(s + RECENT_LEFT + 64 + slot, clean, 0);
    v128.store32_lane(s + RECENT_RIGHT + slot, clean, 1);
    v128.store32_lane(s + RECENT_RIGHT + 64 + slot, clean, 1);
    ++position;
  }
  v128.store(s, x1);
  v128.store(s, y1, 16);
}

/** Guards one segment of a pair in place. `active` 0 leaves only the delay (same timing) and the stop. */
export function guardOutput(pair: u32, frames: u32, active: u32): void {
  const s = states + pair * PAIR_BYTES,
    bus = busOf(pair);
  if (isAtRest(s, bus, frames)) {
    const position = load<u32>(s, 44);
    blockDc(s, bus, frames, active);
    for (let f: u32 = 0; f < frames; ++f)
      store<u64>(bus + (f << 3), load<u64>(s + DELAY + (((position + f - GUARD_LATENCY) & 255) << 3)));
    store<u32>(s, position + frames, 44);
    return;
  }
  const release: f32 = 1 / (RELEASE_SECONDS * sampleRate);
  const fadeStep: f32 = 1 / (0.02 * sampleRate);
  for (let f: u32 = 0; f < frames; ++f) {
    const here = bus + (f << 3);
    const position = load<u32>(s, 44);
    guardLevel(s, max(abs<f32>(load<f32>(here)), abs<f32>(load<f32>(here, 4))));
    blockDc(s, here, 1, active);
    let gain: f32 = 1;
    if (active) gain = limiterGain(s, position, release);
    let fade = load<f32>(s, 60);
    if (load<u32>(s, 40)) fade = max(fade - fadeStep, 0);
    else if (fade < 1) fade = min(fade + fadeStep, 1);
    store<f32>(s, fade, 60);
    const out = s + DELAY + (((position - GUARD_LATENCY) & 255) << 3);
    store<f32>(here, load<f32>(out) * gain * fade);
    store<f32>(here, load<f32>(out, 4) * gain * fade, 4);
    store<u32>(s, position + 1, 44);
  }
}

/** Stops the sound when it stays far too loud before the guard. */
function guardLevel(s: usize, loudest: f32): void {
  const left = loudest <= STOP_LEVEL ? load<i32>(s, PEAKING) - 1 : <i32>(PEAK_SECONDS * sampleRate);
  store<i32>(s, max(left, 0), PEAKING);
  const now = left > 0 ? load<i32>(s, 36) + 1 : 0;
  store<i32>(s, now, 36);
  if (now > <i32>(STOP_SECONDS * sampleRate)) store<u32>(s, 1, 40);
}

function limiterGain(s: usize, position: u32, release: f32): f32 {
  const limit: f32 = CEILING * MARGIN;
  // Between samples a signal cannot pass its largest sample times the sum of the taps' magnitudes.
  let peak: f32 = 0;
  if (loudestNear(s) * GREATEST_GAIN > limit)
    peak = max(
      truePeak(s + RECENT_LEFT + (((position - 11) & 15) << 2)),
      truePeak(s + RECENT_RIGHT + (((position - 11) & 15) << 2)),
    );
  const need: f32 = peak > limit ? limit / peak : 1;
  const slot = position & (WINDOW - 1);
  store<f32>(s + 192 + (slot << 2), need);
  let held: f32 = 1;
  const before = load<f32>(s, 32);
  // The window is searched only while something in it needs less than 1.
  if (need < 1) store<u32>(s, WINDOW + 1, BUSY);
  const busy = load<u32>(s, BUSY);
  if (busy) {
    store<u32>(s, busy - 1, BUSY);
    for (let i: u32 = 0; i < WINDOW; ++i) held = min(held, load<f32>(s + 192 + (i << 2)));
  }
  let released = held < before ? held : before + (held - before) * release;
  if (released > 0.99999 && held == 1) released = 1;
  store<f32>(s, released, 32);
  const fixed = <i32>(<f64>released * <f64>UNITY);
  const sum = load<i64>(s, 48) - <i64>load<i32>(s + 448 + (slot << 2)) + <i64>fixed;
  store<i32>(s + 448 + (slot << 2), fixed);
  store<i64>(s, sum, 48);
  if (sum == UNITY * WINDOW) return 1;
  store<u32>(s, load<u32>(s, 56) + 1, 56);
  const gain = <f32>(<f64>sum / <f64>(UNITY * WINDOW));
  store<f32>(s, min(load<f32>(s, LEAST_GAIN), gain), LEAST_GAIN);
  return gain;
}
