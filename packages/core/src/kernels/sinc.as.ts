// Recordings read between their samples: a Kaiser-windowed sinc of 32 samples (window after Kaiser 1974), stretched where
// they are read faster, so that what would fold back is gone. On a sample and at their own speed they are as they are.
import { totalOf } from "./lanes.as";
import { pi } from "./time.as";
import { madd, splat, sub } from "./simd.as";

/** Samples on either side, and points between two samples. */
const REACH: i32 = 16,
  POINTS: i32 = 512;
/** For −110 dB: 0.1102 (A − 8.7). */
const BETA: f64 = 11.16;
/** Fastest that is read without folding. */
export const FASTEST: f64 = 8;
/** The sinc at t samples from its middle, from 0 to beyond its reach; and by phases, 32 weights each. */
const points: usize = memory.data((16 * 512 + 8) * 4, 16);
const phases: usize = memory.data(513 * 32 * 4, 16);

function besselI0(x: f64): f64 {
  let sum = 1.0,
    term = 1.0;
  for (let k = 1; k < 60; ++k) {
    term *= (x * x) / (4.0 * <f64>k * <f64>k);
    sum += term;
  }
  return sum;
}

export function prepareSinc(): void {
  const whole = besselI0(BETA);
  for (let n = 0; n < REACH * POINTS + 8; ++n) {
    const t = <f64>n / <f64>POINTS,
      u = t / <f64>REACH;
    let y = 0.0;
    if (u < 1) {
      const window = besselI0(BETA * Math.sqrt(1 - u * u)) / whole;
      y = n == 0 ? 1 : n % POINTS == 0 ? 0 : (window * Math.sin(pi * t)) / (pi * t);
    }
    store<f32>(points + ((<usize>n) << 2), <f32>y);
  }
  for (let p = 0; p <= POINTS; ++p)
    for (let k = 0; k < 32; ++k) {
      const at = abs((k - REACH + 1) * POINTS - p);
      store<f32>(phases + ((<usize>(p * 32 + k)) << 2), load<f32>(points + ((<usize>at) << 2)));
    }
}

/** A recording: samples of one channel, how many, and whether it goes round. */
@inline function sampleAt(data: usize, frames: i32, at: i32, isRound: bool): f32 {
  if (isRound) {
    let n = at % frames;
    if (n < 0) n += frames;
    return load<f32>(data + ((<usize>n) << 2));
  }
  return <u32>at < <u32>frames ? load<f32>(data + ((<usize>at) << 2)) : 0;
}

/** What was read last: left and right. */
export let readLeft: f32 = 0;
export let readRight: f32 = 0;

/**
 * Reads both sides at `place`, moving by `speed` samples a frame: 0 outside, unless it goes round. `right` is `left`
 * where there is one channel only.
 */
export function readSinc(
  left: usize,
  right: usize,
  frames: i32,
  place: f64,
  speed: f64,
  isRound: bool,
): void {
  const whole = floor(place),
    part = place - whole,
    at = <i32>whole,
    fast = abs(speed);
  if (part == 0 && fast <= 1) {
    readLeft = sampleAt(left, frames, at, isRound);
    readRight = right == left ? readLeft : sampleAt(right, frames, at, isRound);
    return;
  }
  const stretch = min(max(fast, 1), FASTEST),
    reach = fast > 1 ? <i32>ceil(<f64>REACH * stretch) : REACH,
    first = at - reach + 1,
    taps = ((2 * reach + 3) >> 2) << 2;
  let l = left + ((<usize>first) << 2),
    r = right + ((<usize>first) << 2);
  if (first < 0 || first + taps >= frames) {
    // Near an end: sample by sample beforehand, the same sums afterwards.
    for (let k = 0; k < taps; ++k) {
      store<f32>(edges + ((<usize>k) << 2), sampleAt(left, frames, first + k, isRound));
      if (right != left)
        store<f32>(edges + EDGE_BYTES + ((<usize>k) << 2), sampleAt(right, frames, first + k, isRound));
    }
    l = edges;
    r = right == left ? l : edges + EDGE_BYTES;
  }
  if (fast > 1) sumStretched(l, r, reach, taps, part, stretch);
  else sumPhases(l, r, part);
}

/** Weights of a phase, between two rows of the table. */
@inline function sumPhases(l: usize, r: usize, part: f64): void {
  const phase = part * <f64>POINTS,
    p = <i32>phase,
    f = splat(<f32>(phase - <f64>p)),
    row = phases + ((<usize>(p << 5)) << 2);
  let sum = splat(0),
    other = splat(0);
  for (let n: usize = 0; n < 128; n += 16) {
    const a = v128.load(row + n),
      weights = madd(f, sub(v128.load(row + n, 128), a), a);
    sum = madd(v128.load(l + n), weights, sum);
    if (r != l) other = madd(v128.load(r + n), weights, other);
  }
  readLeft = totalOf(sum);
  readRight = r == l ? readLeft : totalOf(other);
}

/** The sinc as wide as the speed asks for, by straight lines between its points, four samples at a time. */
function sumStretched(l: usize, r: usize, reach: i32, taps: i32, part: f64, stretch: f64): void {
  const pace = splat(<f32>(<f64>POINTS / stretch)),
    last = i32x4.splat(REACH * POINTS);
  let sum = splat(0),
    other = splat(0),
    k = f32x4.add(splat(<f32>(<f64>(1 - reach) - part)), f32x4(0, 1, 2, 3));
  for (let n: usize = 0, end = (<usize>taps) << 2; n < end; n += 16) {
    const t = f32x4.mul(f32x4.abs(k), pace),
      whole = i32x4.min_s(i32x4.trunc_sat_f32x4_s(t), last),
      f = sub(t, f32x4.convert_i32x4_s(whole));
    const a = points + ((<usize>i32x4.extract_lane(whole, 0)) << 2),
      b = points + ((<usize>i32x4.extract_lane(whole, 1)) << 2),
      c = points + ((<usize>i32x4.extract_lane(whole, 2)) << 2),
      d = points + ((<usize>i32x4.extract_lane(whole, 3)) << 2);
    const low = f32x4(load<f32>(a), load<f32>(b), load<f32>(c), load<f32>(d)),
      high = f32x4(load<f32>(a, 4), load<f32>(b, 4), load<f32>(c, 4), load<f32>(d, 4)),
      weights = madd(f, sub(high, low), low);
    sum = madd(v128.load(l + n), weights, sum);
    if (r != l) other = madd(v128.load(r + n), weights, other);
    k = f32x4.add(k, splat(4));
  }
  const scale = <f32>(1 / stretch);
  readLeft = totalOf(sum) * scale;
  readRight = r == l ? readLeft : totalOf(other) * scale;
}
/** Samples of both sides near an end: as many as the fastest reading takes. */
const EDGE_BYTES: usize = 1056;
const edges: usize = memory.data(2112, 16);
