// Tables of weights for recordings that are read between their samples: a Kaiser-windowed sinc at five widths, 256 phases
// each, and the sums over them.
import { besselI0 } from "./bessel.as";
import { madd, splat, sub } from "./simd.as";
import { pi } from "./time.as";

/** For −94 dB: 0.1102 (A − 8.7). */
const TABLE_BETA: f64 = 9.3;
/** Phases between two samples; samples on either side at width 1; taps at each width, whole vectors. */
export const PHASE_BITS: i32 = 8,
  PHASES: i32 = 256;
const TABLE_REACH: f64 = 12;
/** Widths of the tables, taps of each, and where each begins. */
const WIDTHS: i32 = 5,
  NARROW: i32 = 24;
const tapsAt: usize = memory.data<i32>([24, 32, 36, 44, 48], 16);
const tables: usize = memory.data(257 * (24 + 32 + 36 + 44 + 48) * 4, 16);
/** Content of up to 18 kHz at 48 kHz reaches half the rate no sooner than at this speed: nothing of it comes back. */
const FREE_SPEED: f64 = 1.3333333;


@inline function widthOf(n: i32): f64 {
  return 1 + 0.25 * <f64>n;
}

/** Sines of half a circle in 512 parts, and of any number of parts. */
const HALF_CIRCLE: i32 = 512;
const halfCircle: usize = memory.data(512 * 8, 16);
function prepareSines(): void {
  for (let n = 0; n < HALF_CIRCLE; ++n)
    store<f64>(halfCircle + ((<usize>n) << 3), Math.sin((pi * <f64>n) / <f64>HALF_CIRCLE));
}


@inline export function sineOfParts(n: i32): f64 {
  const y = load<f64>(halfCircle + ((<usize>(n & (HALF_CIRCLE - 1))) << 3));
  return n & HALF_CIRCLE ? -y : y;
}

export function prepareTables(): void {
  prepareSines();
  fillFine();
  let at = tables;
  for (let n = 0; n < WIDTHS; ++n) {
    const taps = load<i32>(tapsAt + ((<usize>n) << 2));
    fillTable(at, taps, widthOf(n));
    at += (<usize>(257 * taps)) << 2;
  }
}

/** The sinc at width 1 in so many points a sample: what the tables are read from, by straight lines. */
const FINE: i32 = HALF_CIRCLE;
const fine: usize = memory.data((12 * 512 + 2) * 4, 16);
function fillFine(): void {
  const whole = besselI0(TABLE_BETA);
  for (let n = 0; n < 12 * FINE; ++n) {
    const t = <f64>n / <f64>FINE,
      u = t / TABLE_REACH,
      window = besselI0(TABLE_BETA * Math.sqrt(1 - u * u)) / whole;
    store<f32>(
      fine + ((<usize>n) << 2),
      <f32>(n == 0 ? 1 : n % FINE == 0 ? 0 : (window * sineOfParts(n)) / (pi * t)),
    );
  }
}
function fineAt(t: f64): f64 {
  const at = min(abs(t), TABLE_REACH) * <f64>FINE,
    n = <i32>at,
    y = <f64>load<f32>(fine + ((<usize>n) << 2));
  return y + (at - <f64>n) * (<f64>load<f32>(fine + ((<usize>n) << 2), 4) - y);
}

function fillTable(table: usize, taps: i32, width: f64): void {
  const scale = 1 / width;
  for (let p = 0; p <= PHASES; ++p)
    for (let k = 0; k < taps; ++k) {
      const t = (<f64>(k - (taps >> 1) + 1) - <f64>p / <f64>PHASES) * scale;
      store<f32>(table + ((<usize>(p * taps + k)) << 2), <f32>(fineAt(t) * scale));
    }
}

/** Table and taps for a speed up to twice the recording's own; copies are full up to half their rate. */
export let table: usize = 0;
export let tableTaps: i32 = 0;
export function chooseTable(fast: f64, isCopy: bool): void {
  const width = !isCopy && fast <= FREE_SPEED ? 1 : fast;
  table = tables;
  for (let n = 0; n < WIDTHS; ++n) {
    tableTaps = load<i32>(tapsAt + ((<usize>n) << 2));
    if (width <= widthOf(n) + 0.02) return;
    if (n < WIDTHS - 1) table += (<usize>(257 * tableTaps)) << 2;
  }
}

/** What was read last: left and right. */
export let readLeft: f32 = 0;
export let readRight: f32 = 0;
export function setRead(left: f32, right: f32): void {
  readLeft = left;
  readRight = right;
}

/** Both sides' sums: left in lanes 0 and 1, right in 2 and 3. */
@inline function pairOf(left: v128, right: v128): v128 {
  const four = f32x4.add(
    v128.shuffle<f32>(left, right, 0, 1, 4, 5),
    v128.shuffle<f32>(left, right, 2, 3, 6, 7),
  );
  return f32x4.add(four, v128.shuffle<f32>(four, four, 1, 0, 3, 2));
}

/** Both sides with the narrowest table: six vectors written out, whose places the engine then knows beforehand. */
@inline function sumNarrow(l: usize, r: usize, row: usize, f: v128): v128 {
  let a = v128.load(row),
    w = madd(f, sub(v128.load(row, 96), a), a);
  let sum = f32x4.mul(v128.load(l), w),
    other = f32x4.mul(v128.load(r), w);
  a = v128.load(row, 16);
  w = madd(f, sub(v128.load(row, 112), a), a);
  let sum2 = f32x4.mul(v128.load(l, 16), w),
    other2 = f32x4.mul(v128.load(r, 16), w);
  a = v128.load(row, 32);
  w = madd(f, sub(v128.load(row, 128), a), a);
  sum = madd(v128.load(l, 32), w, sum);
  other = madd(v128.load(r, 32), w, other);
  a = v128.load(row, 48);
  w = madd(f, sub(v128.load(row, 144), a), a);
  sum2 = madd(v128.load(l, 48), w, sum2);
  other2 = madd(v128.load(r, 48), w, other2);
  a = v128.load(row, 64);
  w = madd(f, sub(v128.load(row, 160), a), a);
  sum = madd(v128.load(l, 64), w, sum);
  other = madd(v128.load(r, 64), w, other);
  a = v128.load(row, 80);
  w = madd(f, sub(v128.load(row, 176), a), a);
  sum2 = madd(v128.load(l, 80), w, sum2);
  other2 = madd(v128.load(r, 80), w, other2);
  return pairOf(f32x4.add(sum, sum2), f32x4.add(other, other2));
}

/** Both sides with any table: two vectors at a time. */
function sumWide(l: usize, r: usize, row: usize, bytes: usize, f: v128): v128 {
  let sum = splat(0),
    sum2 = sum,
    other = sum,
    other2 = sum,
    next = row + bytes;
  const end = row + (bytes & ~31);
  for (; row < end; row += 32) {
    const a = v128.load(row),
      w = madd(f, sub(v128.load(next), a), a),
      a2 = v128.load(row, 16),
      w2 = madd(f, sub(v128.load(next, 16), a2), a2);
    sum = madd(v128.load(l), w, sum);
    other = madd(v128.load(r), w, other);
    sum2 = madd(v128.load(l, 16), w2, sum2);
    other2 = madd(v128.load(r, 16), w2, other2);
    next += 32;
    l += 32;
    r += 32;
  }
  if (bytes & 16) {
    const a = v128.load(row),
      w = madd(f, sub(v128.load(next), a), a);
    sum = madd(v128.load(l), w, sum);
    other = madd(v128.load(r), w, other);
  }
  return pairOf(f32x4.add(sum, sum2), f32x4.add(other, other2));
}

/** The same of one channel for both sides. */
function sumOne(l: usize, row: usize, bytes: usize, f: v128): v128 {
  let sum = splat(0),
    sum2 = sum,
    next = row + bytes;
  const end = row + (bytes & ~31);
  for (; row < end; row += 32) {
    const a = v128.load(row),
      a2 = v128.load(row, 16);
    sum = madd(v128.load(l), madd(f, sub(v128.load(next), a), a), sum);
    sum2 = madd(v128.load(l, 16), madd(f, sub(v128.load(next, 16), a2), a2), sum2);
    next += 32;
    l += 32;
  }
  if (bytes & 16) {
    const a = v128.load(row);
    sum = madd(v128.load(l), madd(f, sub(v128.load(next), a), a), sum);
  }
  const all = f32x4.add(sum, sum2);
  return pairOf(all, all);
}

/** Both sides, `bytes` of taps from l and r on, with weights a part `f` of the way from a row to the next. */
@inline export function sumsAt(l: usize, r: usize, row: usize, bytes: usize, f: v128): v128 {
  return r == l
    ? sumOne(l, row, bytes, f)
    : bytes == <usize>(NARROW << 2)
      ? sumNarrow(l, r, row, f)
      : sumWide(l, r, row, bytes, f);
}

/** The same at a part of the way to the next sample, with the table that was chosen, into what was read. */
export function sumPhases(l: usize, r: usize, part: f64): void {
  const phase = part * <f64>PHASES,
    p = <i32>phase,
    bytes = (<usize>tableTaps) << 2,
    pair = sumsAt(l, r, table + <usize>p * bytes, bytes, splat(<f32>(phase - <f64>p)));
  readLeft = f32x4.extract_lane(pair, 0);
  readRight = f32x4.extract_lane(pair, 2);
}
