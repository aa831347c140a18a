import * as P from "../../../generated/formant.as";
import { scratch } from "../../../kernels/scratch.as";
import { sampleRate } from "../../../kernels/time.as";
import { bandOf, lowOf, tangentOfShare } from "../../../kernels/filters.as";
import { isQuiet } from "../../../kernels/quiet.as";
import { div, exp2, log2, madd, mul, splat, sub } from "../../../kernels/simd.as";

const BANDS: usize = 4;
/** The whole range of size moves the resonances by this many octaves either way. */
const SIZE_OCTAVES: f32 = 0.6;

/** Coefficients of the four resonances at a frame: g, damping, gain. */
function place(m: P.Module, g: u32, f: u32, rows: usize): void {
  const table = m.table;
  const vowel = m.vowel.at(g, f),
    whole = f32x4.pmin(f32x4.floor(vowel), splat(3)),
    t = sub(vowel, whole);
  const shift = exp2(mul(m.size.at(g, f), splat(SIZE_OCTAVES)));
  const sharp = m.sharpness.at(g, f),
    k = div(splat(1), madd(mul(sharp, sharp), splat(27), splat(3)));
  const row = scratch(5);
  v128.store(row, whole);
  for (let n: usize = 0; n < BANDS; ++n) {
    for (let lane: usize = 0; lane < 16; lane += 4) {
      const at = table + <usize>load<f32>(row + lane) * (BANDS * 8) + (n << 3);
      store<f32>(row + lane, load<f32>(at), 16);
      store<f32>(row + lane, load<f32>(at, BANDS * 8), 32);
      store<f32>(row + lane, load<f32>(at, 4), 48);
      store<f32>(row + lane, load<f32>(at, BANDS * 8 + 4), 64);
    }
    const low = v128.load(row, 16),
      high = v128.load(row, 32);
    const hertz = mul(mul(low, exp2(mul(t, log2(div(high, low))))), shift);
    v128.store(rows + n * 48, tangentOfShare(mul(hertz, splat(1 / sampleRate))));
    v128.store(rows + n * 48, k, 16);
    v128.store(
      rows + n * 48,
      mul(k, madd(sub(v128.load(row, 64), v128.load(row, 48)), t, v128.load(row, 48))),
      32,
    );
  }
}

export function process(m: P.Module, frame: u32, frames: u32): void {
  const input = m.in,
    out = m.outOut,
    mix = m.mix;
  let resting = true;
  for (let g: u32 = 0, groups = m.groups; g < groups; ++g) {
    const state = m.state(g);
    if (m.settled(g) && isQuiet(input, g, frame, state.address, 8)) {
      out.fill(g, frame, frames, splat(0));
      continue;
    }
    resting = false;
    const steady = m.vowel.isConstant(g) && m.size.isConstant(g) && m.sharpness.isConstant(g);
    const rows = scratch(4),
      q = out.write(g, frame);
    let x = input.row(g, frame),
      pMix = mix.row(g, frame);
    const xs = input.step(g),
      ms = mix.step(g);
    for (let f: u32 = 0; f < frames; ++f) {
      if (f == 0 || !steady) place(m, g, frame + f, rows);
      const dry = v128.load(x);
      let wet = splat(0);
      for (let n: usize = 0; n < BANDS; ++n) {
        const at = state.address + (n << 5),
          tangent = v128.load(rows + n * 48),
          band = bandOf(at, dry, tangent, v128.load(rows + n * 48, 16));
        lowOf(at, band, tangent);
        wet = madd(band, v128.load(rows + n * 48, 32), wet);
      }
      v128.store(q + (f << 4), madd(v128.load(pMix), sub(wet, dry), dry));
      x += xs;
      pMix += ms;
    }
  }
  if (resting) m.rest();
}
