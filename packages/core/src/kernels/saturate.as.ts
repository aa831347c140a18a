// Saturation with its aliasing reduced by integrating the curve (first-order antiderivative antialiasing:
// Parker, Zavalishin & Le Bivic, DAFx 2016). No latency beyond half a sample, so it may stand inside loops.
import { add, div, exp2, hyperbolicTangent, log2, mul, select, splat, sub } from "./simd.as";

const LN2: f32 = 0.69314718;
const OCTAVES_PER_DB: f32 = 0.166096405;

/** ln cosh u, without overflow: |u| - ln 2 + ln(1 + e^(-2|u|)). */
// @ts-ignore: decorator
@inline function logCosh(u: v128): v128 {
  const size = f32x4.abs(u);
  const tail = mul(log2(add(splat(1), exp2(mul(size, splat(-2.885390082))))), splat(LN2));
  return add(sub(size, splat(LN2)), tail);
}

/** Below this step the difference quotient loses its digits. */
const LEAST_STEP: f32 = 0.01;

/**
 * One sample of tanh(gain x) / gain^0.5, gain in dB; 0 dB is exactly linear. `state`: the last driven input and its
 * antiderivative. The square root keeps the loudness of a driven tone within a few dB.
 */
// @ts-ignore: decorator
@inline export function drivenSample(state: usize, x: v128, gainDb: v128): v128 {
  const octaves = mul(gainDb, splat(OCTAVES_PER_DB));
  const u = mul(x, exp2(octaves));
  const before = v128.load(state),
    integralBefore = v128.load(state, 16);
  const integral = logCosh(u);
  const step = sub(u, before);
  const small = f32x4.lt(f32x4.abs(step), splat(LEAST_STEP));
  const quotient = div(sub(integral, integralBefore), select(splat(1), step, small));
  const shaped = select(hyperbolicTangent(mul(splat(0.5), add(u, before))), quotient, small);
  v128.store(state, u);
  v128.store(state, integral, 16);
  const on = f32x4.gt(gainDb, splat(0));
  return select(mul(shaped, exp2(mul(splat(-0.5), octaves))), x, on);
}
