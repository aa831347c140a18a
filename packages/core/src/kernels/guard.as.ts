// The ear guard: DC blocker, hard stop, true-peak limiter. One for each of the four output pairs.
//
// Limiter: the gain each moment needs, held over a window as long as the look-ahead, released slowly, averaged over the
// same window: the gain has arrived when the peak does, without steps. Gains are summed as integers, so that a signal
// under the ceiling passes untouched to the last bit. True peak: four-fold oversampling (ITU-R BS.1770-4, annex 2).
import { sampleRate } from "./instance.as";

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
/** +24 dB for this long stops the sound. */
const STOP_LEVEL: f32 = 15.848932;
const STOP_SECONDS: f32 = 0.02;
const UNITY: i64 = 1 << 30;

const buses: usize = memory.data(4 * 1024, 16);
// Per pair: [0] x1 L,R f64; [16] y1 L,R f64; [32] released gain f32; [36] loud frames i32; [40] stopped u32;
// [44] position u32; [48] sum i64; [56] limited frames u32; [60] fade f32;
// [64] 16 recent samples L, [128] R; [192] needed gains 64; [448] released gains 64 (i32); [704] delay 128 stereo;
// [1728] frames for which the window still has to be searched.
const BUSY: usize = 1728;
const PAIR_BYTES: usize = 2048;
const states: usize = memory.data(4 * 2048, 16);
const taps: usize = memory.data(4 * 3 * 12, 16);

export function busOf(pair: u32): usize { return buses + min(pair, PAIRS - 1) * 1024; }
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
      store<f32>(taps + ((phase * 12 + t) << 2), <f32>y);
    }
    for (let t = 0; t < 12; ++t) {
      const at = taps + ((phase * 12 + t) << 2);
      store<f32>(at, <f32>(<f64>load<f32>(at) / sum));
    }
  }
  for (let p: u32 = 0; p < PAIRS; ++p) resetGuard(p, 1);
}

/** Clears a pair's guard; `fade` 0 starts a 20 ms fade-in, 1 starts open. */
export function resetGuard(pair: u32, fade: f32): void {
  const s = states + pair * PAIR_BYTES;
  memory.fill(s, 0, PAIR_BYTES);
  store<f32>(s, 1, 32);
  store<i64>(s, UNITY * WINDOW, 48);
  store<f32>(s, fade, 60);
  for (let i: u32 = 0; i < WINDOW; ++i) {
    store<f32>(s + 192 + (i << 2), 1);
    store<i32>(s + 448 + (i << 2), <i32>UNITY);
  }
}

export function fadeIn(pair: u32): void { store<f32>(states + pair * PAIR_BYTES, 0, 60); }
/** Frames since the last look in which the limiter worked. */
export function limitedFrames(pair: u32): u32 {
  const s = states + pair * PAIR_BYTES;
  const n = load<u32>(s, 56);
  store<u32>(s, 0, 56);
  return n;
}
export function isStopped(pair: u32): u32 { return load<u32>(states + pair * PAIR_BYTES, 40); }

/** Largest magnitude near the sample CENTRE frames back, between samples included. */
function truePeak(history: usize, position: u32): f32 {
  let peak = abs<f32>(load<f32>(history + (((position - CENTRE) & 15) << 2)));
  for (let phase: u32 = 0; phase < 3; ++phase) {
    let y: f32 = 0;
    for (let t: u32 = 0; t < 12; ++t) y += load<f32>(taps + ((phase * 12 + t) << 2)) * load<f32>(history + (((position - 11 + t) & 15) << 2));
    peak = max(peak, abs<f32>(y));
  }
  return peak;
}

// @ts-ignore: decorator
@inline function isFinite32(x: f32): bool { return x - x == 0; }

/** Guards one segment of a pair in place. `active` 0 leaves only the delay (same timing) and the stop. */
export function guardOutput(pair: u32, frames: u32, active: u32): void {
  const s = states + pair * PAIR_BYTES, bus = busOf(pair);
  const keep = 1.0 - (2.0 * Math.PI * DC_CORNER) / <f64>sampleRate;
  const release: f32 = 1 / (RELEASE_SECONDS * sampleRate);
  const fadeStep: f32 = 1 / (0.02 * sampleRate);
  for (let f: u32 = 0; f < frames; ++f) {
    const at = bus + (f << 3);
    const position = load<u32>(s, 44);
    let loudest: f32 = 0;
    for (let side: u32 = 0; side < 2; ++side) {
      let x = load<f32>(at + (side << 2));
      if (!isFinite32(x)) x = 0;
      loudest = max(loudest, abs<f32>(x));
      let y = <f64>x - load<f64>(s + (side << 3)) + keep * load<f64>(s + (side << 3), 16);
      if (abs<f64>(y) < 1e-15) y = 0;
      store<f64>(s + (side << 3), <f64>x);
      store<f64>(s + (side << 3), y, 16);
      const clean: f32 = active ? <f32>y : x;
      store<f32>(s + 64 + (side << 6) + ((position & 15) << 2), clean);
      store<f32>(s + 704 + ((((position & 127) << 1) + side) << 2), clean);
    }
    guardLevel(s, loudest);
    let gain: f32 = 1;
    if (active) gain = limiterGain(s, position, release);
    let fade = load<f32>(s, 60);
    if (load<u32>(s, 40)) fade = max(fade - fadeStep, 0);
    else if (fade < 1) fade = min(fade + fadeStep, 1);
    store<f32>(s, fade, 60);
    const out = s + 704 + (((position - GUARD_LATENCY) & 127) << 3);
    store<f32>(at, load<f32>(out) * gain * fade);
    store<f32>(at, load<f32>(out, 4) * gain * fade, 4);
    store<u32>(s, position + 1, 44);
  }
}

/** Stops the sound when it stays far too loud before the guard. */
function guardLevel(s: usize, loudest: f32): void {
  const loud = load<i32>(s, 36);
  const now = loudest > STOP_LEVEL ? loud + 1 : max(loud - 4, 0);
  store<i32>(s, now, 36);
  if (now > <i32>(STOP_SECONDS * sampleRate)) store<u32>(s, 1, 40);
}

function limiterGain(s: usize, position: u32, release: f32): f32 {
  const peak = max(truePeak(s + 64, position), truePeak(s + 128, position));
  const limit: f32 = CEILING * MARGIN;
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
  return <f32>(<f64>sum / <f64>(UNITY * WINDOW));
}
