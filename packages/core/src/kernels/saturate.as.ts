// Saturation before a linear filter, as an addition to a path that stays as it is: x + r(x), where the residual
// r(x) = m (f(G x) G^-e - x) is worked out at a higher rate and m goes to 0 with the drive. The linear path has no delay
// and depends on nothing; at 0 dB r is exactly 0. The residual comes through half-band filters of short delay: what it
// lags by, about a sample and a half, only brightens what is driven hard.
//
// The curve is f(u) = u / sqrt(1 + u^2), taken as its mean between two samples (Parker, Zavalishin & Le Bivic, DAFx
// 2016), which for this curve is (a + b) / (sqrt(1 + a^2) + sqrt(1 + b^2)) without any difference.
import { scratch } from "./scratch.as";
import { oversampling } from "./time.as";
import { gainOfDb } from "./levels.as";
import { downsampleLight, OVERSAMPLE_VECTORS, upsampleLight } from "./oversample.as";
import { add, div, madd, mul, splat, sub } from "./simd.as";

/** Where the state of a driven input stands behind that of its oversampling: last input, gain, share. */
const LAST: usize = (<usize>OVERSAMPLE_VECTORS) << 4,
  GAIN: usize = LAST + 16,
  SHARE: usize = LAST + 32;
/** Those of its vectors that hold sound. */
export const DRIVEN_SOUND: u32 = OVERSAMPLE_VECTORS + 1;
const DOWN_AT: usize = (<usize>(OVERSAMPLE_VECTORS / 2)) << 4;
const ROW: u32 = 6;

/** How much of the signal is bent: 1 - 1/G^2. */
@inline function shareOf(gain: v128): v128 {
  return sub(splat(1), div(splat(1), mul(gain, gain)));
}
/** G^-e for e = 1/2, which keeps the loudness of a driven tone, or 0. */
@inline function levelOf(gain: v128, hot: bool): v128 {
  return hot ? splat(1) : div(splat(1), f32x4.sqrt(gain));
}

/** True when no drive is set and nothing is left of an earlier one. */
export function isUndriven(state: usize, drive: usize, driveStride: usize): bool {
  if (driveStride != 0 || v128.any_true(v128.load(drive))) return false;
  for (let p = state + DOWN_AT, end = state + LAST; p < end; p += 16)
    if (v128.any_true(v128.load(p))) return false;
  return true;
}

/** Writes x + r(x) into `target`. `inLoop`: at once, at the plain rate. `hot`: louder with the drive. */
export function driveRow(
  state: usize,
  source: usize,
  sourceStride: usize,
  drive: usize,
  driveStride: usize,
  target: usize,
  frames: u32,
  inLoop: bool,
  hot: bool,
): void {
  let gain = gainOfDb(v128.load(drive)),
    share = shareOf(gain),
    level = levelOf(gain, hot);
  if (inLoop) {
    for (let f: u32 = 0; f < frames; ++f) {
      const x = v128.load(source + f * sourceStride),
        u = mul(x, gain);
      const bent = mul(div(u, f32x4.sqrt(madd(u, u, splat(1)))), level);
      v128.store(target + (f << 4), madd(share, sub(bent, x), x));
      if (driveStride) {
        drive += driveStride;
        gain = gainOfDb(v128.load(drive));
        share = shareOf(gain);
        level = levelOf(gain, hot);
      }
    }
    return;
  }
  // A gain is at least 1, but for one that never was.
  if (!v128.any_true(v128.load(state + GAIN))) {
    v128.store(state + GAIN, gain);
    v128.store(state + SHARE, share);
  }
  const row = upsampleLight(state, source, sourceStride, frames),
    factor = oversampling,
    part = splat(1 / <f32>factor),
    half = splat(0.5),
    one = splat(1);
  let p = row,
    before = v128.load(state + LAST),
    gainBefore = v128.load(state + GAIN),
    shareBefore = v128.load(state + SHARE);
  for (let f: u32 = 0; f < frames; ++f) {
    if (driveStride && f) {
      gain = gainOfDb(v128.load(drive + f * driveStride));
      share = shareOf(gain);
      level = levelOf(gain, hot);
    }
    const gainStep = mul(sub(gain, gainBefore), part),
      shareStep = mul(sub(share, shareBefore), part);
    for (let k: u32 = 0; k < factor; ++k, p += 16) {
      gainBefore = add(gainBefore, gainStep);
      shareBefore = add(shareBefore, shareStep);
      const x = v128.load(p),
        a = mul(before, gainBefore),
        b = mul(x, gainBefore);
      const bent = div(add(a, b), add(f32x4.sqrt(madd(a, a, one)), f32x4.sqrt(madd(b, b, one))));
      v128.store(p, mul(shareBefore, sub(mul(bent, level), mul(add(before, x), half))));
      before = x;
    }
    gainBefore = gain;
    shareBefore = share;
  }
  v128.store(state + LAST, before);
  v128.store(state + GAIN, gainBefore);
  v128.store(state + SHARE, shareBefore);
  const residual = scratch(ROW);
  downsampleLight(state, row, residual, frames);
  for (let f: u32 = 0; f < frames; ++f)
    v128.store(target + (f << 4), add(v128.load(source + f * sourceStride), v128.load(residual + (f << 4))));
}
