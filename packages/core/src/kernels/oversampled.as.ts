// Shaping at the oversampled rate, shared by everything that bends a signal: the way up with gain and bias, the dry sound
// on the same way.
import { downsample, upsample } from "./oversample.as";
import { gainOfDb } from "./levels.as";
import { oversampling } from "./time.as";
import { Signal } from "./signal.as";
import { add, madd, mul, splat, sub } from "./simd.as";

/** A row of factors for a row of decibels that moves or stands still. */
export function gainRow(db: usize, stride: usize, target: usize, frames: u32): void {
  const fixed = gainOfDb(v128.load(db));
  for (let f: u32 = 0; f < frames; ++f)
    v128.store(target + (f << 4), stride ? gainOfDb(v128.load(db + f * stride)) : fixed);
}

/**
 * Brings a signal to the higher rate, times a row of gains and plus a bias, both in straight lines between samples; where
 * they stand: `frames` times the oversampling vectors. State: that of the oversampling at `over`, gain and bias of the
 * last sample at `before`. A gain is never 0, but for one that never was.
 */
export function upsampleDriven(
  over: usize,
  before: usize,
  source: usize,
  stride: usize,
  gains: usize,
  bias: usize,
  biasStride: usize,
  frames: u32,
): usize {
  const row = upsample(over, source, stride, frames),
    factor = oversampling,
    share = splat(1 / <f32>factor);
  let gain = v128.load(before),
    offset = v128.load(before, 16),
    p = row;
  if (!v128.any_true(gain)) {
    gain = v128.load(gains);
    offset = v128.load(bias);
  }
  for (let f: u32 = 0; f < frames; ++f) {
    const to = v128.load(gains + (f << 4)),
      offsetTo = v128.load(bias + f * biasStride),
      step = mul(sub(to, gain), share),
      offsetStep = mul(sub(offsetTo, offset), share);
    for (let k: u32 = 0; k < factor; ++k) {
      gain = add(gain, step);
      offset = add(offset, offsetStep);
      v128.store(p, madd(v128.load(p), gain, offset));
      p += 16;
    }
    gain = to;
    offset = offsetTo;
  }
  v128.store(before, gain);
  v128.store(before, offset, 16);
  return row;
}

/** Is anything of the dry sound heard? */
@inline export function hearsDry(mix: Signal, g: u32, frame: u32): bool {
  return !mix.isConstant(g) || v128.any_true(f32x4.ne(v128.load(mix.row(g, frame)), splat(1)));
}

/** The dry part on the same way up and down, so that both add up. State at `over`. */
export function dryRow(over: usize, source: usize, stride: usize, target: usize, frames: u32): void {
  downsample(over, upsample(over, source, stride, frames), target, frames);
}
