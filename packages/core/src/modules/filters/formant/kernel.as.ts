import * as P from "../../../generated/formant.as";
import {
  groupsOf,
  isConstant,
  pointerTo,
  read,
  rest,
  sampleRate,
  scratch,
  settled,
  signalAt,
  stateOf,
  strideOf,
  tableOf,
  writeConstant,
  writeTo,
} from "../../../kernels/instance.as";
import { band, section, tangentOfShare } from "../../../kernels/filters.as";
import { isQuiet } from "../../../kernels/quiet.as";
import { div, exp2, log2, madd, mul, splat, sub } from "../../../kernels/simd.as";

const BANDS: usize = 4;
/** The whole range of size moves the resonances by this many octaves either way. */
const SIZE_OCTAVES: f32 = 0.6;

/** Coefficients of the four resonances at a frame: g, damping, gain. */
function place(instance: usize, g: u32, f: u32, rows: usize): void {
  const table = tableOf(instance);
  const vowel = read(instance, P.PARAM_VOWEL, g, f),
    whole = f32x4.pmin(f32x4.floor(vowel), splat(3)),
    t = sub(vowel, whole);
  const shift = exp2(mul(read(instance, P.PARAM_SIZE, g, f), splat(SIZE_OCTAVES)));
  const sharp = read(instance, P.PARAM_SHARPNESS, g, f),
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

export function process(instance: usize, frame: u32, frames: u32): void {
  const input = signalAt(instance, P.IN_IN),
    out = signalAt(instance, P.OUT_OUT),
    mix = signalAt(instance, P.PARAM_MIX);
  let resting = true;
  for (let g: u32 = 0, groups = groupsOf(instance); g < groups; ++g) {
    const state = stateOf(instance, g);
    if (settled(instance, g) && isQuiet(input, g, frame, state, 8)) {
      writeConstant(out, g, frame, frames, splat(0));
      continue;
    }
    resting = false;
    const steady =
      isConstant(signalAt(instance, P.PARAM_VOWEL), g) &&
      isConstant(signalAt(instance, P.PARAM_SIZE), g) &&
      isConstant(signalAt(instance, P.PARAM_SHARPNESS), g);
    const rows = scratch(4),
      q = writeTo(out, g, frame);
    let x = pointerTo(input, g, frame),
      m = pointerTo(mix, g, frame);
    const xs = strideOf(input, g),
      ms = strideOf(mix, g);
    for (let f: u32 = 0; f < frames; ++f) {
      if (f == 0 || !steady) place(instance, g, frame + f, rows);
      const dry = v128.load(x);
      let wet = splat(0);
      for (let n: usize = 0; n < BANDS; ++n) {
        section(state + (n << 5), dry, v128.load(rows + n * 48), v128.load(rows + n * 48, 16));
        wet = madd(band, v128.load(rows + n * 48, 32), wet);
      }
      v128.store(q + (f << 4), madd(v128.load(m), sub(wet, dry), dry));
      x += xs;
      m += ms;
    }
  }
  if (resting) rest(instance);
}
