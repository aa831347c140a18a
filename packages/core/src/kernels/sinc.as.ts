// Recordings read between their samples: a Kaiser-windowed sinc (window after Kaiser 1974), wider where they are read faster,
// so that what would fold back is gone. Up to twice as fast there are tables of weights for five widths, 256 phases each;
// what is faster is read from half-rate copies, where there are any, or with the sinc as wide as it has to be. On a sample
// and at their own speed recordings are as they are.
import { totalOf } from "./lanes.as";
import { besselI0 } from "./bessel.as";
import {
  chooseTable,
  PHASE_BITS,
  PHASES,
  prepareTables,
  readLeft,
  readRight,
  setRead,
  sineOfParts,
  sumPhases,
  sumsAt,
  table,
  tableTaps,
} from "./phases.as";
import { pi } from "./time.as";
import { madd, splat, sub } from "./simd.as";
export { readLeft, readRight } from "./phases.as";

/** Samples on either side of the sinc that is stretched freely, and points between two samples. */
const REACH: i32 = 16,
  POINTS: i32 = 512;
/** For −110 dB: 0.1102 (A − 8.7). */
const BETA: f64 = 11.16;
/** What is read faster than this comes from a half-rate copy: of what that lacks, all but a little would be above 18 kHz. */
export const COPY_SPEED: f64 = 1.75;
/** Fastest that is read without folding. */
export const FASTEST: f64 = 8;
/** The sinc at t samples from its middle, from 0 to beyond its reach. */
const points: usize = memory.data((16 * 512 + 8) * 4, 16);

export function prepareSinc(): void {
  prepareTables();
  const whole = besselI0(BETA);
  for (let n = 0; n < REACH * POINTS + 8; ++n) {
    const t = <f64>n / <f64>POINTS,
      u = t / <f64>REACH;
    let y = 0.0;
    if (u < 1) {
      const window = besselI0(BETA * Math.sqrt(1 - u * u)) / whole;
      y = n == 0 ? 1 : n % POINTS == 0 ? 0 : (window * sineOfParts(n)) / (pi * t);
    }
    store<f32>(points + ((<usize>n) << 2), <f32>y);
  }
}

/** What comes behind the end of a recording: silence, or the same backwards; from 0 on the sample it goes on with. */
export const SILENCE: i32 = -1,
  MIRROR: i32 = -2;

/** A sample of one channel, also beyond its ends. What goes round as a whole does so at both of them. */
@inline function sampleAt(data: usize, frames: i32, at: i32, beyond: i32): f32 {
  let n = at;
  if (<u32>n >= <u32>frames) {
    if (beyond == SILENCE) return 0;
    if (beyond == MIRROR) n = n < 0 ? -n : 2 * (frames - 1) - n;
    else if (n >= frames) n = beyond + ((n - frames) % (frames - beyond));
    else if (beyond == 0) n = frames - 1 - ((-1 - n) % frames);
    if (<u32>n >= <u32>frames) return 0;
  }
  return load<f32>(data + ((<usize>n) << 2));
}

/** Where a recording is read, brought to the half-rate copy that its speed asks for. */
let fromLeft: usize = 0;
let fromRight: usize = 0;
let length: i32 = 0;
let halvings: i32 = 0;
function chooseCopy(left: usize, right: usize, frames: i32, fast: f64): void {
  fromLeft = left;
  fromRight = right;
  length = frames;
  halvings = 0;
  for (let speed = fast; speed > COPY_SPEED; speed *= 0.5) {
    fromLeft += (<usize>length) << 2;
    fromRight += (<usize>length) << 2;
    length = (length + 1) >> 1;
    halvings += 1;
  }
}


@inline function halving(x: f64): f64 {
  return x / <f64>(1 << halvings);
}

/** Reads as `readSinc` does, from the half-rate copies that stand behind each channel (copiesOf). */
export function readCopies(
  left: usize,
  right: usize,
  frames: i32,
  place: f64,
  speed: f64,
  beyond: i32,
): void {
  const fast = abs(speed);
  if (fast <= COPY_SPEED || fast > FASTEST) {
    readSinc(left, right, frames, place, speed, beyond);
    return;
  }
  chooseCopy(left, right, frames, fast);
  readSinc(
    fromLeft,
    fromRight,
    length,
    halving(place),
    halving(speed),
    beyond > 0 ? min(beyond >> halvings, length - 1) : beyond,
  );
  halvings = 0;
}

/**
 * Reads both sides at `place`, moving by `speed` samples a frame; `beyond`: what is behind the end. `right` is `left` where
 * there is one channel only.
 */
export function readSinc(left: usize, right: usize, frames: i32, place: f64, speed: f64, beyond: i32): void {
  const whole = floor(place),
    part = place - whole,
    at = <i32>whole,
    fast = abs(speed);
  if (part == 0 && fast <= 1) {
    const y = sampleAt(left, frames, at, beyond);
    setRead(y, right == left ? y : sampleAt(right, frames, at, beyond));
    return;
  }
  const isTabled = fast <= 2;
  if (isTabled) chooseTable(fast, halvings > 0);
  const stretch = min(max(fast, 1), FASTEST),
    reach = isTabled ? tableTaps >> 1 : <i32>ceil(<f64>REACH * stretch),
    first = at - reach + 1,
    taps = ((2 * reach + 3) >> 2) << 2;
  let l = left + ((<usize>first) << 2),
    r = right + ((<usize>first) << 2);
  if (first < 0 || first + taps >= frames) {
    // Near an end: sample by sample beforehand, the same sums afterwards.
    for (let k = 0; k < taps; ++k) {
      store<f32>(edges + ((<usize>k) << 2), sampleAt(left, frames, first + k, beyond));
      if (right != left)
        store<f32>(edges + EDGE_BYTES + ((<usize>k) << 2), sampleAt(right, frames, first + k, beyond));
    }
    l = edges;
    r = right == left ? l : edges + EDGE_BYTES;
  }
  if (isTabled) sumPhases(l, r, part);
  else sumStretched(l, r, reach, taps, part, stretch);
}

/** Samples of a channel with its three half-rate copies, each of half the one before. */
@inline export function copiesOf(frames: i32): i32 {
  const half = (frames + 1) >> 1,
    quarter = (half + 1) >> 1;
  return frames + half + quarter + ((quarter + 1) >> 1);
}

/** Whole samples one after the other, as pairs. */
function copyPairs(l: usize, r: usize, count: u32, pairs: usize): void {
  const last = pairs + ((<usize>count) << 3);
  let p = pairs;
  for (; p + 32 <= last; p += 32) {
    const left = v128.load(l),
      right = v128.load(r);
    v128.store(p, v128.shuffle<f32>(left, right, 0, 4, 1, 5));
    v128.store(p, v128.shuffle<f32>(left, right, 2, 6, 3, 7), 16);
    l += 16;
    r += 16;
  }
  for (; p < last; p += 8) {
    store<f32>(p, load<f32>(l));
    store<f32>(p, load<f32>(r), 4);
    l += 4;
    r += 4;
  }
}

/** Where the last run would go on. */
export let runEnd: f64 = 0;

/**
 * Reads `count` frames from `place` on at a steady speed, as `readSinc` does, into pairs of left and right one behind the
 * other, where all of them lie well within the recording; half-rate copies stand behind each channel (copiesOf). False
 * where it cannot.
 */
export function readRun(
  left: usize,
  right: usize,
  frames: i32,
  place: f64,
  speed: f64,
  count: u32,
  pairs: usize,
): bool {
  if (abs(speed) > FASTEST) return false;
  chooseCopy(left, right, frames, abs(speed));
  const l = fromLeft,
    r = fromRight,
    step = halving(speed),
    fast = abs(step),
    back = <f64>(1 << halvings);
  let at = halving(place);
  chooseTable(fast, halvings > 0);
  halvings = 0;
  const last = at + step * <f64>(count - 1),
    lowest = <i32>floor(min(at, last)) - (tableTaps >> 1) + 1,
    highest = <i32>floor(max(at, last)) + (tableTaps >> 1);
  if (lowest < 0 || highest >= length) return false;
  if (step == 1 && at == floor(at)) {
    const from = (<usize>(<i32>at)) << 2;
    copyPairs(l + from, r + from, count, pairs);
    runEnd = (at + <f64>count) * back;
    return true;
  }
  const weights = table,
    bytes = (<usize>tableTaps) << 2,
    reach = (<usize>((tableTaps >> 1) - 1)) << 2,
    end = pairs + ((<usize>count) << 3),
    isSlow = fast <= 1;
  for (let p = pairs; p < end; p += 8) {
    // Samples and phases between them in one number: its fraction lies between two phases.
    const phases = at * <f64>PHASES,
      whole = <i64>phases,
      phase = (<i32>whole) & (PHASES - 1),
      f = <f32>(phases - <f64>whole),
      from = (<usize>(<i32>(whole >> PHASE_BITS))) << 2;
    if (isSlow && phase == 0 && f == 0) {
      store<f32>(p, load<f32>(l + from));
      store<f32>(p, load<f32>(r + from), 4);
    } else {
      const pair = sumsAt(
        l + from - reach,
        r + from - reach,
        weights + <usize>phase * bytes,
        bytes,
        splat(f),
      );
      v128.store64_lane(p, v128.shuffle<f32>(pair, pair, 0, 2, 0, 2), 0);
    }
    at += step;
  }
  runEnd = at * back;
  return true;
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
  const y = totalOf(sum) * scale;
  setRead(y, r == l ? y : totalOf(other) * scale);
}
/** Samples of both sides near an end: as many as the fastest reading takes. */
const EDGE_BYTES: usize = 1056;
const edges: usize = memory.data(2112, 16);
