// Equaliser: six state-variable sections, mixed into shelves and bells (Simper, "Solving the continuous SVF equations
// using trapezoidal integration", 2013): out = m0 x + m1 band + m2 low.
import * as P from "../../../generated/equalizer.as";
import {
  choiceOf,
  groupsOf,
  isConstant,
  peek,
  pointerTo,
  rest,
  sampleRate,
  scratch,
  settled,
  signalAt,
  stateOf,
  strideOf,
  writeConstant,
  writeTo,
} from "../../../kernels/instance.as";
import { band, low, section, tangentOfShare } from "../../../kernels/filters.as";
import { gainOfDb } from "../../../kernels/levels.as";
import { isQuiet } from "../../../kernels/quiet.as";
import { add, div, exp2, madd, mul, splat, sub } from "../../../kernels/simd.as";

const BANDS: u32 = 6;
/** Parameters of a band: frequency, gain, q, on (its type is a setting). */
const STEP: usize = 16;
/** Octaves of sqrt(gain) per dB: 10^(dB/40). */
const HALF_OCTAVES: f32 = 0.0830482024;

/** Coefficients of a band at a frame: g, k, m0, m1, m2. */
function place(instance: usize, n: u32, g: u32, f: u32, at: usize): void {
  const base = P.PARAM_B1FREQ + <usize>n * STEP;
  const type = choiceOf(instance, P.SET_B1TYPE + (n << 2));
  const t = tangentOfShare(mul(peek(signalAt(instance, base), g, f), splat(1 / sampleRate)));
  const a = exp2(mul(peek(signalAt(instance, base + 4), g, f), splat(HALF_OCTAVES))),
    k = div(splat(1), peek(signalAt(instance, base + 8), g, f));
  let gg = t,
    kk = k,
    m0 = splat(1),
    m1 = splat(0),
    m2 = splat(0);
  if (type == P.B1TYPE_LOWCUT) {
    m1 = f32x4.neg(k);
    m2 = splat(-1);
  } else if (type == P.B1TYPE_HIGHCUT) {
    m0 = splat(0);
    m2 = splat(1);
  } else if (type == P.B1TYPE_NOTCH) m1 = f32x4.neg(k);
  else if (type == P.B1TYPE_BELL) {
    kk = div(k, a);
    m1 = mul(kk, sub(mul(a, a), splat(1)));
  } else if (type == P.B1TYPE_LOWSHELF) {
    gg = div(t, f32x4.sqrt(a));
    m1 = mul(k, sub(a, splat(1)));
    m2 = sub(mul(a, a), splat(1));
  } else {
    gg = mul(t, f32x4.sqrt(a));
    m0 = mul(a, a);
    m1 = mul(mul(k, a), sub(splat(1), a));
    m2 = sub(splat(1), mul(a, a));
  }
  v128.store(at, gg);
  v128.store(at, kk, 16);
  v128.store(at, m0, 32);
  v128.store(at, m1, 48);
  v128.store(at, m2, 64);
}

export function process(instance: usize, frame: u32, frames: u32): void {
  const input = signalAt(instance, P.IN_IN),
    out = signalAt(instance, P.OUT_OUT),
    level = signalAt(instance, P.PARAM_OUTPUT);
  let resting = true;
  for (let g: u32 = 0, groups = groupsOf(instance); g < groups; ++g) {
    const state = stateOf(instance, g);
    if (settled(instance, g) && isQuiet(input, g, frame, state, 12)) {
      writeConstant(out, g, frame, frames, splat(0));
      continue;
    }
    resting = false;
    let x = pointerTo(input, g, frame),
      l = pointerTo(level, g, frame);
    const xs = strideOf(input, g),
      ls = strideOf(level, g),
      q = writeTo(out, g, frame),
      fixedLevel = gainOfDb(v128.load(l));
    for (let f: u32 = 0; f < frames; ++f) {
      v128.store(q + (f << 4), mul(v128.load(x), ls ? gainOfDb(v128.load(l)) : fixedLevel));
      x += xs;
      l += ls;
    }
    for (let n: u32 = 0; n < BANDS; ++n) {
      const base = P.PARAM_B1FREQ + <usize>n * STEP,
        type = choiceOf(instance, P.SET_B1TYPE + (n << 2)),
        at = state + P.STATE_BANDS + (n << 5);
      const on = signalAt(instance, base + 12),
        gain = signalAt(instance, base + 4);
      const shapes = type == P.B1TYPE_BELL || type == P.B1TYPE_LOWSHELF || type == P.B1TYPE_HIGHSHELF;
      const off = isConstant(on, g) && !v128.any_true(v128.load(pointerTo(on, g, frame)));
      // Nothing to do, and nothing moving: the sound passes to the last bit.
      if (off || (shapes && isConstant(gain, g) && !v128.any_true(v128.load(pointerTo(gain, g, frame))))) {
        v128.store(at, splat(0));
        v128.store(at, splat(0), 16);
        continue;
      }
      const steady =
          isConstant(on, g) &&
          isConstant(gain, g) &&
          isConstant(signalAt(instance, base), g) &&
          isConstant(signalAt(instance, base + 8), g),
        row = scratch(6);
      for (let f: u32 = 0; f < frames; ++f) {
        if (f == 0 || !steady) place(instance, n, g, frame + f, row);
        const p = q + (f << 4),
          dry = v128.load(p);
        section(at, dry, v128.load(row), v128.load(row, 16));
        const wet = add(
          mul(v128.load(row, 32), dry),
          madd(v128.load(row, 48), band, mul(v128.load(row, 64), low)),
        );
        v128.store(p, madd(peek(on, g, frame + f), sub(wet, dry), dry));
      }
    }
  }
  if (resting) rest(instance);
}
