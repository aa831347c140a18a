// Filters of one pole in the trapezoidal form (Zavalishin, "The Art of VA Filter Design"), for tone controls and DC.
import { pi, sampleRate } from "./time.as";
import { add, madd, mul, sub } from "./simd.as";

/** Coefficient g / (1 + g) of a fixed cutoff in hertz. */
export function onePoleOf(hertz: f32): f32 {
  const g = <f32>Math.tan(<f64>pi * min<f64>(<f64>hertz / <f64>sampleRate, 0.49));
  return g / (1 + g);
}
/** The low-pass of a sample; state at `at`. */
@inline export function lowPass(at: usize, x: v128, coefficient: v128): v128 {
  const s = v128.load(at);
  const v = mul(sub(x, s), coefficient);
  const low = add(v, s);
  v128.store(at, add(low, v));
  return low;
}

/** The high-pass: what the low-pass leaves. */
@inline export function highPass(at: usize, x: v128, coefficient: v128): v128 {
  return sub(x, lowPass(at, x, coefficient));
}

const DC_HERTZ: f32 = 5;
/** Takes the constant part out. */
@inline export function withoutDc(at: usize, x: v128, coefficient: v128): v128 {
  return highPass(at, x, coefficient);
}
export function dcCoefficient(): f32 {
  return onePoleOf(DC_HERTZ);
}

/** Tilt around 800 Hz: -1 keeps the lows, 1 the highs, 0 exactly everything. */
const TILT_HERTZ: f32 = 800;
export function tiltCoefficient(): f32 {
  return onePoleOf(TILT_HERTZ);
}


@inline export function tilted(at: usize, x: v128, tone: v128, coefficient: v128): v128 {
  const low = lowPass(at, x, coefficient);
  // x + tone (high - low), high = x - low
  return madd(tone, sub(x, add(low, low)), x);
}
