// Levels between samples, for limiters: four-fold oversampling by windowed sincs of 12, 24 and 48 taps a place (ITU-R
// BS.1770-4, annex 2, has 12). Near the Nyquist frequency a longer one sees more and a shorter one other peaks, so a
// limiter that heeds all three holds its ceiling whichever it is measured by.
//
// Places 1/4 and 3/4 mirror each other: with s = a + b and d = a - b of the two samples as far from the middle, one is
// sum(p s + q d), the other sum(p s - q d), and the place between, 1/2, sum(r s).
import { LOOKAHEAD_REACH } from "./abi";
import { add, higher, lower, madd, mul, splat, sub } from "./simd.as";

/** Pairs of the longest filter: it looks at so many samples either way. */
export const PEAK_REACH: u32 = <u32>LOOKAHEAD_REACH;
/** Per filter and pair from the middle outwards: p, q, r, each four times. */
const ROW: usize = 48;
const rows: usize = memory.data(48 * 42, 16);
/** First pair of each filter in `rows`. */
const SHORT_AT: usize = 0,
  MIDDLE_AT: usize = 48 * 6,
  LONG_AT: usize = 48 * 18;

/** What a level may be between the four places of a sample, as a rule: 0.03 dB more. */
const BETWEEN: f32 = 1.00346;

/** Greatest gain of any of the filters for what (1, 2, 1) / 4 leaves of a signal, and for what it takes off. */
let smoothGain: f32 = 0,
  roughGain: f32 = 0;

function weightAt(t: f64, pairs: i32): f64 {
  const window = 0.5 + 0.5 * Math.cos((Math.PI * t) / (<f64>pairs + 0.5));
  return (Math.sin(Math.PI * t) / (Math.PI * t)) * window;
}

/** Sum of a filter's weights at a place between samples. */
function rowSum(place: f64, pairs: i32): f64 {
  let sum = 0.0;
  for (let i = 1 - pairs; i <= pairs; ++i) sum += weightAt(<f64>i - place, pairs);
  return sum;
}
/** One weight of it, all of them together 1; pairs count from the middle, left is -1. */
function rowWeight(place: f64, pairs: i32, index: i32, sum: f64): f64 {
  return index < 1 - pairs || index > pairs ? 0 : weightAt(<f64>index - place, pairs) / sum;
}

function fillFilter(pairs: i32, at: usize): void {
  const quarter = rowSum(0.25, pairs),
    half = rowSum(0.5, pairs);
  for (let pair = 0; pair < pairs; ++pair) {
    const near = rowWeight(0.25, pairs, -pair, quarter),
      far = rowWeight(0.25, pairs, pair + 1, quarter);
    const row = rows + at + <usize>pair * ROW;
    v128.store(row, splat(<f32>(0.5 * (near + far))));
    v128.store(row, splat(<f32>(0.5 * (near - far))), 16);
    v128.store(row, splat(<f32>rowWeight(0.5, pairs, -pair, half)), 32);
  }
}

/** Greatest sums of magnitudes of one filter's weights (with room for BETWEEN and rounding), smoothed by (1, 2, 1) / 4 and as they are. */
function noteGains(pairs: i32): void {
  for (let quarter = 1; quarter < 4; ++quarter) {
    const place = 0.25 * <f64>quarter,
      sum = rowSum(place, pairs);
    let smooth = 0.0,
      rough = 0.0;
    for (let i = -pairs; i <= pairs + 1; ++i) {
      const here = rowWeight(place, pairs, i, sum);
      const beside = rowWeight(place, pairs, i - 1, sum) + rowWeight(place, pairs, i + 1, sum);
      smooth += Math.abs(0.5 * here + 0.25 * beside);
      rough += Math.abs(here);
    }
    smoothGain = max(smoothGain, <f32>(1.005 * smooth));
    roughGain = max(roughGain, <f32>(1.005 * rough));
  }
}

/** Built on the host's side. */
export function preparePeaks(): void {
  fillFilter(6, SHORT_AT);
  fillFilter(12, MIDDLE_AT);
  fillFilter(24, LONG_AT);
  noteGains(6);
  noteGains(12);
  noteGains(24);
}

function filterPeak(ring: usize, mask: u32, middle: u32, at: usize, pairs: u32): v128 {
  let even = splat(0),
    odd = splat(0),
    half = splat(0),
    row = rows + at;
  for (let pair: u32 = 0; pair < pairs; ++pair, row += ROW) {
    const a = v128.load(ring + ((<usize>((middle - pair) & mask)) << 4)),
      b = v128.load(ring + ((<usize>((middle + pair + 1) & mask)) << 4)),
      s = add(a, b);
    even = madd(v128.load(row), s, even);
    odd = madd(v128.load(row, 16), sub(a, b), odd);
    half = madd(v128.load(row, 32), s, half);
  }
  return higher(add(f32x4.abs(even), f32x4.abs(odd)), f32x4.abs(half));
}

/**
 * Greatest magnitude from the sample `middle` up to the next, four lanes at once. `ring` holds a vector a sample, `mask`
 * + 1 of them; 24 samples behind `middle` must be there.
 */
export function peakFrom(ring: usize, mask: u32, middle: u32): v128 {
  const between = higher(
    filterPeak(ring, mask, middle, SHORT_AT, PEAK_REACH / 4),
    higher(
      filterPeak(ring, mask, middle, MIDDLE_AT, PEAK_REACH / 2),
      filterPeak(ring, mask, middle, LONG_AT, PEAK_REACH),
    ),
  );
  const sample = v128.load(ring + ((<usize>(middle & mask)) << 4));
  return mul(higher(between, f32x4.abs(sample)), splat(BETWEEN));
}

/**
 * What no level between the last `count` samples up to `newest` can pass, by magnitudes alone: far quicker than looking.
 * A signal without much near the Nyquist frequency hardly passes its samples.
 */
export function peakBound(ring: usize, mask: u32, newest: u32, count: u32): v128 {
  let most = splat(0),
    rough = splat(0);
  let before = v128.load(ring + ((<usize>((newest - count - 1) & mask)) << 4)),
    now = v128.load(ring + ((<usize>((newest - count) & mask)) << 4));
  for (let k = count; k > 0; --k) {
    const next = v128.load(ring + ((<usize>((newest - k + 1) & mask)) << 4));
    most = higher(most, f32x4.abs(now));
    rough = higher(rough, f32x4.abs(sub(add(now, now), add(before, next))));
    before = now;
    now = next;
  }
  // The newest has no sample behind it yet; with 0 for it the parts only grow.
  most = higher(most, f32x4.abs(now));
  rough = higher(rough, f32x4.abs(sub(add(now, now), before)));
  return madd(splat(smoothGain), most, mul(splat(0.25 * roughGain), rough));
}

/** Samples that are looked at together before each is looked at by itself. */
export const PEAK_STRIP: u32 = 16;

/** What no level can pass that is seen from the last `frames` samples up to `newest`: all they look at lies within. */
@inline export function seenBound(ring: usize, mask: u32, newest: u32, frames: u32): v128 {
  return peakBound(ring, mask, newest, frames + 2 * PEAK_REACH);
}

/** Sound as a limiter takes it: what is not a number is silent, nothing is beyond ±1e6 (120 dB above full scale). */
@inline export function sane(x: v128): v128 {
  return v128.and(lower(higher(x, splat(-1e6)), splat(1e6)), f32x4.eq(x, x));
}
