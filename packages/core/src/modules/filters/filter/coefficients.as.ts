// Coefficients of the state-variable filter, frame by frame and four frames side by side.
import { sampleRate } from "../../../kernels/time.as";
import { add, at, clamp, div, exp2, higher, madd, mul, splat, sub } from "../../../kernels/simd.as";

/** 1/Q = 2 (1 - resonance), Q at most 500. */
const LEAST_DAMPING: f32 = 0.002;
/** Cutoff may not reach Nyquist, where the tangent has its pole. */
const HIGHEST: f32 = 0.495;
export const OUTPUTS: u32 = 6;
/** pi/2, the continued fraction's coefficients, 1. */
const TANGENT: usize = memory.data<f32>([1.5707963268, 105, 945, 15, 420, 1], 16);
/** States of the linear core: two sections, the second for each output. */
export const LINEAR_VECTORS: u32 = 14;
/** Scratch rows: the coefficients of a moving filter (and behind them those of a second group), and its driven input. */
export const G = 0,
  A1 = 1,
  K = 4,
  INPUT = 5,
  BETWEEN = 6;

/** 1/Q. */
@inline export function dampingOf(resonance: v128): v128 {
  return higher(sub(splat(2), add(resonance, resonance)), splat(LEAST_DAMPING));
}

/** Share of the sample rate the filter is set to; `perFrame` is 1 / sample rate, worked out once a block. */
@inline export function shareOfCutoff(hertz: v128, perFrame: v128): v128 {
  return clamp(mul(hertz, perFrame), splat(1e-6), splat(HIGHEST));
}
/** The same for a cutoff with tracked pitch. */
@inline export function shareOf(
  cutoff: v128,
  tracking: v128,
  pitch: v128,
  tracks: bool,
  perFrame: v128,
): v128 {
  return shareOfCutoff(tracks ? mul(cutoff, exp2(mul(tracking, pitch))) : cutoff, perFrame);
}

/** The tangent of pi u / 2 is a continued fraction n/d, relative error below 4e-7. */
// @ts-ignore: decorator
@inline function numeratorOf(u: v128): v128 {
  const y = mul(u, at(TANGENT, 0)),
    y2 = mul(y, y);
  return mul(y, madd(sub(y2, at(TANGENT, 1)), y2, at(TANGENT, 2)));
}
// @ts-ignore: decorator
@inline function denominatorOf(u: v128): v128 {
  const y = mul(u, at(TANGENT, 0)),
    y2 = mul(y, y);
  return madd(sub(mul(y2, at(TANGENT, 3)), at(TANGENT, 4)), y2, at(TANGENT, 2));
}
/** g = tan(pi u) is top/bottom, by tan 2y = 2nd / (d^2 - n^2); `rest` and `quotient` share one division with a1. */
// @ts-ignore: decorator
@inline function restOf(top: v128, bottom: v128, k: v128): v128 {
  return madd(top, madd(k, bottom, top), mul(bottom, bottom));
}
// @ts-ignore: decorator
@inline function quotientOf(bottom: v128, rest: v128): v128 {
  return div(at(TANGENT, 5), mul(bottom, rest));
}
/** a1 = 1 / (1 + g (g + k)). */
// @ts-ignore: decorator
@inline function dampedOf(bottom: v128, quotient: v128): v128 {
  return mul(mul(mul(bottom, bottom), bottom), quotient);
}

/** Stores g and a1. */
// @ts-ignore: decorator
@inline export function storeCoefficients(u: v128, k: v128, g: usize, a1: usize): void {
  const n = numeratorOf(u),
    d = denominatorOf(u);
  const top = mul(add(n, n), d),
    bottom = mul(sub(d, n), add(d, n));
  const rest = restOf(top, bottom, k),
    q = quotientOf(bottom, rest);
  v128.store(g, mul(mul(top, rest), q));
  v128.store(a1, dampedOf(bottom, q));
}

/**
 * The same for a row of cutoffs at one damping, four frames at a time: each coefficient is a long chain, and the machine
 * works on several only when they are written side by side.
 */
export function storeSweep(cutoff: usize, k: v128, g: usize, a1: usize, frames: u32): void {
  const perFrame = splat(1 / sampleRate);
  let f: u32 = 0;
  for (; f + 4 <= frames; f += 4) {
    const u = shareOfCutoff(v128.load(cutoff), perFrame),
      u2 = shareOfCutoff(v128.load(cutoff, 16), perFrame),
      u3 = shareOfCutoff(v128.load(cutoff, 32), perFrame),
      u4 = shareOfCutoff(v128.load(cutoff, 48), perFrame);
    const n = numeratorOf(u),
      n2 = numeratorOf(u2),
      n3 = numeratorOf(u3),
      n4 = numeratorOf(u4);
    const d = denominatorOf(u),
      d2 = denominatorOf(u2),
      d3 = denominatorOf(u3),
      d4 = denominatorOf(u4);
    const top = mul(add(n, n), d),
      top2 = mul(add(n2, n2), d2),
      top3 = mul(add(n3, n3), d3),
      top4 = mul(add(n4, n4), d4);
    const bottom = mul(sub(d, n), add(d, n)),
      bottom2 = mul(sub(d2, n2), add(d2, n2)),
      bottom3 = mul(sub(d3, n3), add(d3, n3)),
      bottom4 = mul(sub(d4, n4), add(d4, n4));
    const rest = restOf(top, bottom, k),
      rest2 = restOf(top2, bottom2, k),
      rest3 = restOf(top3, bottom3, k),
      rest4 = restOf(top4, bottom4, k);
    const q = quotientOf(bottom, rest),
      q2 = quotientOf(bottom2, rest2),
      q3 = quotientOf(bottom3, rest3),
      q4 = quotientOf(bottom4, rest4);
    v128.store(g, mul(mul(top, rest), q));
    v128.store(g, mul(mul(top2, rest2), q2), 16);
    v128.store(g, mul(mul(top3, rest3), q3), 32);
    v128.store(g, mul(mul(top4, rest4), q4), 48);
    v128.store(a1, dampedOf(bottom, q));
    v128.store(a1, dampedOf(bottom2, q2), 16);
    v128.store(a1, dampedOf(bottom3, q3), 32);
    v128.store(a1, dampedOf(bottom4, q4), 48);
    cutoff += 64;
    g += 64;
    a1 += 64;
  }
  for (; f < frames; ++f) {
    storeCoefficients(shareOfCutoff(v128.load(cutoff), perFrame), k, g, a1);
    cutoff += 16;
    g += 16;
    a1 += 16;
  }
}
