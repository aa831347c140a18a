// Tables every engine needs, built once on the host's side before any audio runs.
//
// Band-limited steps: a step convolved with a Kaiser-windowed sinc h of half-length 12 samples and its -6 dB point at
// the Nyquist frequency. With beta = 9.3 the stop band (-93 dB, Kaiser's formula) begins at 0.624 of the sample rate:
// what folds back below 18 kHz at 48 kHz, and below 16 kHz at 44.1 kHz, is gone even for narrow pulses, whose partials
// do not fall.
import { besselI0 } from "./bessel.as";
import { at, madd } from "./simd.as";

/** Half length of the step's transition in samples. */
export const STEP_REACH: i32 = 12;
/** Table points per sample. */
export const STEP_POINTS: i32 = 256;
const KAISER_BETA: f64 = 9.3;

/** Reach in samples, points per sample, last point, and what rounds down (see exp2). */
export const stepLimits: usize = memory.data<f32>([12, 256, 3072, 0.5, 12582912], 16);
const indexMask: usize = memory.data<i32>([0x3fff], 16);

/** T(t) = what a band-limited step still lacks of 1, at t >= 0 samples after it: 0.5 ... 0. */
export const stepTable: usize = memory.data(4 * 12 * 256 + 64, 16);
/** Integral of T from t to the end: the same for a change of slope. */
export const slopeTable: usize = memory.data(4 * 12 * 256 + 64, 16);
/** Causal form, for steps known only when they have happened: 32 samples at 64 points. */
export const CAUSAL_LENGTH: i32 = 32;
export const CAUSAL_POINTS: i32 = 64;
export const causalStepTable: usize = memory.data(4 * 32 * 64 + 512, 16);
export const causalSlopeTable: usize = memory.data(4 * 32 * 64 + 512, 16);

let wholeWindow: f64 = 0;
function kaiserSinc(t: f64): f64 {
  const reach = <f64>STEP_REACH;
  const u = t / reach;
  if (u >= 1.0 || u <= -1.0) return 0;
  const window = besselI0(KAISER_BETA * Math.sqrt(1.0 - u * u)) / wholeWindow;
  return (t == 0 ? 1.0 : Math.sin(Math.PI * t) / (Math.PI * t)) * window;
}

/** Integrates backwards from the end with Simpson's rule; both tables in one pass. */
function buildSymmetric(): void {
  const n = STEP_REACH * STEP_POINTS;
  const h = 1.0 / <f64>STEP_POINTS;
  let lacking = 0.0,
    slope = 0.0;
  store<f32>(stepTable + (n << 2), 0);
  store<f32>(slopeTable + (n << 2), 0);
  let right = 0.0;
  for (let i = n - 1; i >= 0; --i) {
    const t = <f64>i * h;
    const left = kaiserSinc(t);
    const before = lacking;
    lacking += (h / 6.0) * (left + 4.0 * kaiserSinc(t + 0.5 * h) + right);
    slope += 0.5 * h * (before + lacking);
    right = left;
    store<f32>(stepTable + (i << 2), <f32>lacking);
    store<f32>(slopeTable + (i << 2), <f32>slope);
  }
  // The window changes the area by a few parts in a million: half a step must lack exactly half.
  const scale = 0.5 / lacking;
  for (let i = 0; i <= n; ++i) {
    store<f32>(stepTable + (i << 2), <f32>(<f64>load<f32>(stepTable + (i << 2)) * scale));
    store<f32>(slopeTable + (i << 2), <f32>(<f64>load<f32>(slopeTable + (i << 2)) * scale));
  }
}

const FFT_SIZE: i32 = 8192;
const real: usize = memory.data(8 * 8192, 16);
const imaginary: usize = memory.data(8 * 8192, 16);

/** In-place radix-2 FFT of 8192 points; `direction` -1 forward, 1 inverse (unscaled). */
function transform(direction: f64): void {
  for (let i = 0, j = 0; i < FFT_SIZE; ++i) {
    if (i < j) {
      const r = load<f64>(real + (i << 3)),
        m = load<f64>(imaginary + (i << 3));
      store<f64>(real + (i << 3), load<f64>(real + (j << 3)));
      store<f64>(imaginary + (i << 3), load<f64>(imaginary + (j << 3)));
      store<f64>(real + (j << 3), r);
      store<f64>(imaginary + (j << 3), m);
    }
    let bit = FFT_SIZE >> 1;
    while (j & bit) {
      j ^= bit;
      bit >>= 1;
    }
    j |= bit;
  }
  for (let size = 2; size <= FFT_SIZE; size <<= 1) {
    const half = size >> 1;
    const stepR = Math.cos((2.0 * Math.PI) / <f64>size),
      stepI = direction * Math.sin((2.0 * Math.PI) / <f64>size);
    for (let start = 0; start < FFT_SIZE; start += size) {
      let wr = 1.0,
        wi = 0.0;
      for (let k = start; k < start + half; ++k) {
        const a = k << 3,
          b = (k + half) << 3;
        const br = load<f64>(real + b) * wr - load<f64>(imaginary + b) * wi;
        const bi = load<f64>(real + b) * wi + load<f64>(imaginary + b) * wr;
        const ar = load<f64>(real + a),
          ai = load<f64>(imaginary + a);
        store<f64>(real + a, ar + br);
        store<f64>(imaginary + a, ai + bi);
        store<f64>(real + b, ar - br);
        store<f64>(imaginary + b, ai - bi);
        const next = wr * stepR - wi * stepI;
        wi = wr * stepI + wi * stepR;
        wr = next;
      }
    }
  }
}

/**
 * Minimum-phase form of the same kernel through the real cepstrum (Oppenheim & Schafer): logarithm of the magnitude,
 * fold the anti-causal half over, exponentiate. Its integral is the causal step.
 */
function buildCausal(): void {
  const points = STEP_REACH * CAUSAL_POINTS;
  for (let i = 0; i < FFT_SIZE; ++i) {
    const k = i <= FFT_SIZE / 2 ? i : i - FFT_SIZE;
    store<f64>(real + (i << 3), k > -points && k < points ? kaiserSinc(<f64>k / <f64>CAUSAL_POINTS) : 0);
    store<f64>(imaginary + (i << 3), 0);
  }
  transform(-1);
  // Both halves mirror each other, here and below.
  for (let i = 0; i <= FFT_SIZE / 2; ++i) {
    const r = load<f64>(real + (i << 3)),
      m = load<f64>(imaginary + (i << 3)),
      level = Math.log(Math.max(Math.sqrt(r * r + m * m), 1e-5)),
      mirror = (FFT_SIZE - i) & (FFT_SIZE - 1);
    store<f64>(real + (i << 3), level);
    store<f64>(real + (mirror << 3), level);
    store<f64>(imaginary + (i << 3), 0);
    store<f64>(imaginary + (mirror << 3), 0);
  }
  transform(1);
  for (let i = 0; i < FFT_SIZE; ++i) {
    const fold = i == 0 || i == FFT_SIZE / 2 ? 1.0 : i < FFT_SIZE / 2 ? 2.0 : 0.0;
    store<f64>(real + (i << 3), (load<f64>(real + (i << 3)) * fold) / <f64>FFT_SIZE);
    store<f64>(imaginary + (i << 3), 0);
  }
  transform(-1);
  for (let i = 0; i <= FFT_SIZE / 2; ++i) {
    const size = Math.exp(load<f64>(real + (i << 3))),
      angle = load<f64>(imaginary + (i << 3)),
      level = size * Math.cos(angle),
      turned = size * Math.sin(angle),
      mirror = (FFT_SIZE - i) & (FFT_SIZE - 1);
    store<f64>(real + (i << 3), level);
    store<f64>(real + (mirror << 3), level);
    store<f64>(imaginary + (mirror << 3), -turned);
    store<f64>(imaginary + (i << 3), turned);
  }
  transform(1);
  const n = CAUSAL_LENGTH * CAUSAL_POINTS;
  let area = 0.0;
  for (let i = 0; i < n; ++i) area += load<f64>(real + (i << 3));
  let reached = 0.0;
  for (let i = 0; i <= n; ++i) {
    store<f32>(causalStepTable + (i << 2), <f32>(1.0 - reached / area));
    reached += load<f64>(real + (i << 3));
  }
  let slope = 0.0;
  for (let i = n; i >= 0; --i) {
    store<f32>(causalSlopeTable + (i << 2), <f32>slope);
    if (i > 0) slope += <f64>load<f32>(causalStepTable + ((i - 1) << 2)) / <f64>CAUSAL_POINTS;
  }
}

let built = false;
export function buildTables(): void {
  if (built) return;
  built = true;
  wholeWindow = besselI0(KAISER_BETA);
  buildSymmetric();
  buildCausal();
}

/** T at `distance` samples (>= 0, per lane), linear between table points. */
@inline export function lookUp(table: usize, distance: v128): v128 {
  return lookUpPoint(table, f32x4.mul(distance, at(stepLimits, 1)));
}
/** The same by points of the table. */
// @ts-ignore: decorator
@inline export function lookUpPoint(table: usize, point: v128): v128 {
  const x = f32x4.pmin(point, at(stepLimits, 2));
  // Adding 1.5 * 2^23 leaves floor(x) in the low bits (see exp2).
  const shifted = f32x4.add(f32x4.sub(x, at(stepLimits, 3)), at(stepLimits, 4));
  const fraction = f32x4.sub(x, f32x4.sub(shifted, at(stepLimits, 4)));
  const offsets = i32x4.shl(v128.and(shifted, at(indexMask, 0)), 2);
  let low = v128.load64_zero(table + <usize>i32x4.extract_lane(offsets, 0));
  let high = v128.load64_zero(table + <usize>i32x4.extract_lane(offsets, 2));
  low = v128.load64_lane(table + <usize>i32x4.extract_lane(offsets, 1), low, 1);
  high = v128.load64_lane(table + <usize>i32x4.extract_lane(offsets, 3), high, 1);
  const a = v128.shuffle<i32>(low, high, 0, 2, 4, 6);
  const b = v128.shuffle<i32>(low, high, 1, 3, 5, 7);
  return madd(f32x4.sub(b, a), fraction, a);
}
