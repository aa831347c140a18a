// Discrete Fourier transforms of 256, 1,024, 4,096 and 16,384 complex points: radix 4 in the order of Stockham (Cochran et
// al., "What is the fast Fourier transform?", 1967; the autosorting form after Van Loan 1992), stage by stage, so that a
// long one can be spread over time. Real and imaginary parts stand apart; with both swapped, in and out, it is the inverse
// times its length.
import { add, mul, splat, sub } from "./simd.as";
import { pi } from "./time.as";

/** Lengths there are, from 0 on: 256 points, each four times as many. */
const SIZES: u32 = 4,
  LONGEST: u32 = 16384;
export function pointsOf(size: u32): u32 {
  return 256 << (size << 1);
}
export function stagesOf(size: u32): u32 {
  return 4 + size;
}
/** Sines of the first quarter of a circle in 16,384 parts. */
const sines: usize = memory.data((4096 + 1) * 4, 16);
/** Turns of every length: for each, cosine and sine of p, 2p and 3p over a quarter of the points. */
const turns: usize = memory.data(6 * (64 + 256 + 1024 + 4096) * 4, 16);
function turnsOf(size: u32): usize {
  return turns + 6 * 4 * (((64 << (size << 1)) - 64) / 3);
}

/** Sine of a number of parts of the circle, all the way round. */
function sineAt(part: u32): f32 {
  const quarter = LONGEST >> 2,
    at = part & (LONGEST - 1),
    within = at & (quarter - 1),
    isFalling = (at & quarter) != 0,
    y = load<f32>(sines + ((<usize>(isFalling ? quarter - within : within)) << 2));
  return at >= LONGEST >> 1 ? -y : y;
}

export function prepareFourier(): void {
  for (let n: u32 = 0; n <= LONGEST >> 2; ++n)
    store<f32>(sines + ((<usize>n) << 2), <f32>Math.sin((2 * pi * <f64>n) / <f64>LONGEST));
  for (let size: u32 = 0; size < SIZES; ++size) {
    const points = pointsOf(size),
      quarter = points >> 2;
    for (let times: u32 = 1; times <= 3; ++times)
      for (let p: u32 = 0; p < quarter; ++p) {
        const part = times * p * (LONGEST / points),
          to = turnsOf(size) + ((<usize>((times - 1) * 2 * quarter + p)) << 2);
        store<f32>(to, sineAt(part + (LONGEST >> 2)));
        store<f32>(to + ((<usize>quarter) << 2), -sineAt(part));
      }
  }
}

/** The four sums of a butterfly, before they are turned. */
let aRe: v128 = splat(0),
  aIm: v128 = splat(0),
  bRe: v128 = splat(0),
  bIm: v128 = splat(0),
  cRe: v128 = splat(0),
  cIm: v128 = splat(0),
  dRe: v128 = splat(0),
  dIm: v128 = splat(0);

/** Four points each a quarter apart, from `re` and `im` on. */
// @ts-ignore: decorator
@inline function gather(re: usize, im: usize, apart: usize): void {
  const r0 = v128.load(re),
    r1 = v128.load(re + apart),
    r2 = v128.load(re + 2 * apart),
    r3 = v128.load(re + 3 * apart),
    i0 = v128.load(im),
    i1 = v128.load(im + apart),
    i2 = v128.load(im + 2 * apart),
    i3 = v128.load(im + 3 * apart);
  const evenRe = add(r0, r2),
    evenIm = add(i0, i2),
    awayRe = sub(r0, r2),
    awayIm = sub(i0, i2),
    oddRe = add(r1, r3),
    oddIm = add(i1, i3),
    acrossRe = sub(r1, r3),
    acrossIm = sub(i1, i3);
  aRe = add(evenRe, oddRe);
  aIm = add(evenIm, oddIm);
  bRe = add(awayRe, acrossIm);
  bIm = sub(awayIm, acrossRe);
  cRe = sub(evenRe, oddRe);
  cIm = sub(evenIm, oddIm);
  dRe = sub(awayRe, acrossIm);
  dIm = add(awayIm, acrossRe);
}

// @ts-ignore: decorator
@inline function turnedRe(re: v128, im: v128, c: v128, s: v128): v128 {
  return sub(mul(re, c), mul(im, s));
}
// @ts-ignore: decorator
@inline function turnedIm(re: v128, im: v128, c: v128, s: v128): v128 {
  return add(mul(re, s), mul(im, c));
}

/** The first stage: four butterflies beside one another, whose results stand four to a place. */
function first(points: u32, turns: usize, re: usize, im: usize, toRe: usize, toIm: usize): void {
  const quarter = (<usize>(points >> 2)) << 2;
  for (let p: usize = 0; p < quarter; p += 16) {
    gather(re + p, im + p, quarter);
    const t = turns + p;
    const c1 = v128.load(t),
      s1 = v128.load(t + quarter),
      c2 = v128.load(t + 2 * quarter),
      s2 = v128.load(t + 3 * quarter),
      c3 = v128.load(t + 4 * quarter),
      s3 = v128.load(t + 5 * quarter);
    const q = p << 2;
    turnRound(
      toRe + q,
      aRe,
      turnedRe(bRe, bIm, c1, s1),
      turnedRe(cRe, cIm, c2, s2),
      turnedRe(dRe, dIm, c3, s3),
    );
    turnRound(
      toIm + q,
      aIm,
      turnedIm(bRe, bIm, c1, s1),
      turnedIm(cRe, cIm, c2, s2),
      turnedIm(dRe, dIm, c3, s3),
    );
  }
}

/** Writes four rows as columns. */
// @ts-ignore: decorator
@inline function turnRound(to: usize, a: v128, b: v128, c: v128, d: v128): void {
  const low = v128.shuffle<i32>(a, b, 0, 4, 1, 5),
    high = v128.shuffle<i32>(a, b, 2, 6, 3, 7),
    low2 = v128.shuffle<i32>(c, d, 0, 4, 1, 5),
    high2 = v128.shuffle<i32>(c, d, 2, 6, 3, 7);
  v128.store(to, v128.shuffle<i64>(low, low2, 0, 2));
  v128.store(to, v128.shuffle<i64>(low, low2, 1, 3), 16);
  v128.store(to, v128.shuffle<i64>(high, high2, 0, 2), 32);
  v128.store(to, v128.shuffle<i64>(high, high2, 1, 3), 48);
}

/** A further stage, at which `stride` points stand beside one another. */
function further(
  points: u32,
  stride: u32,
  turns: usize,
  re: usize,
  im: usize,
  toRe: usize,
  toIm: usize,
): void {
  const quarter = (<usize>(points >> 2)) << 2,
    row = (<usize>stride) << 2,
    rounds = points / stride / 4;
  for (let p: u32 = 0; p < rounds; ++p) {
    const t = turns + ((<usize>(p * stride)) << 2);
    const c1 = v128.load32_splat(t),
      s1 = v128.load32_splat(t + quarter),
      c2 = v128.load32_splat(t + 2 * quarter),
      s2 = v128.load32_splat(t + 3 * quarter),
      c3 = v128.load32_splat(t + 4 * quarter),
      s3 = v128.load32_splat(t + 5 * quarter);
    const from = <usize>p * row,
      to = from << 2;
    for (let q: usize = 0; q < row; q += 16) {
      gather(re + from + q, im + from + q, quarter);
      const r = toRe + to + q,
        i = toIm + to + q;
      v128.store(r, aRe);
      v128.store(i, aIm);
      v128.store(r + row, turnedRe(bRe, bIm, c1, s1));
      v128.store(i + row, turnedIm(bRe, bIm, c1, s1));
      v128.store(r + 2 * row, turnedRe(cRe, cIm, c2, s2));
      v128.store(i + 2 * row, turnedIm(cRe, cIm, c2, s2));
      v128.store(r + 3 * row, turnedRe(dRe, dIm, c3, s3));
      v128.store(i + 3 * row, turnedIm(dRe, dIm, c3, s3));
    }
  }
}

/**
 * Stages from one to before another of a transform of a size, between rows at `re` and `im` and rows to work in. Where the
 * size has an even number of stages the result stands where it began, else where it was worked in.
 */
export function transform(
  size: u32,
  from: u32,
  to: u32,
  re: usize,
  im: usize,
  workRe: usize,
  workIm: usize,
): void {
  const points = pointsOf(size),
    turning = turnsOf(size);
  for (let stage = from; stage < to; ++stage) {
    const isBack = (stage & 1) == 1,
      r = isBack ? workRe : re,
      i = isBack ? workIm : im,
      toRe = isBack ? re : workRe,
      toIm = isBack ? im : workIm;
    if (stage == 0) first(points, turning, r, i, toRe, toIm);
    else further(points, 1 << (stage << 1), turning, r, i, toRe, toIm);
  }
}
