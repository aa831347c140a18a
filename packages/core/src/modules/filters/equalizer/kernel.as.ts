// Equaliser: six state-variable sections, mixed into shelves and bells (Simper, "Solving the continuous SVF equations
// using trapezoidal integration", 2013): out = m0 x + m1 band + m2 low.
import * as P from "../../../generated/equalizer.as";
import { scratch } from "../../../kernels/scratch.as";
import { sampleRate } from "../../../kernels/time.as";
import { bandOf, lowOf, tangentOfShare } from "../../../kernels/filters.as";
import { gainOfDb } from "../../../kernels/levels.as";
import { isQuiet } from "../../../kernels/quiet.as";
import { add, div, exp2, madd, mul, splat, sub } from "../../../kernels/simd.as";

const BANDS: u32 = 6;
/** Parameters of a band: frequency, gain, q, on (its type is a setting). */
const STEP: usize = 16;
/** Octaves of sqrt(gain) per dB: 10^(dB/40). */
const HALF_OCTAVES: f32 = 0.0830482024;

/** Coefficients of a band at a frame: g, k, m0, m1, m2. */
function place(m: P.Module, n: u32, g: u32, f: u32, at: usize): void {
  const base = P.PARAM_B1FREQ + <usize>n * STEP;
  const type = m.choice(P.SET_B1TYPE + (n << 2));
  const t = tangentOfShare(mul(m.signal(base).at(g, f), splat(1 / sampleRate)));
  const a = exp2(mul(m.signal(base + 4).at(g, f), splat(HALF_OCTAVES))),
    k = div(splat(1), m.signal(base + 8).at(g, f));
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

export function process(m: P.Module, frame: u32, frames: u32): void {
  const input = m.in,
    out = m.outOut,
    level = m.output;
  let resting = true;
  for (let g: u32 = 0, groups = m.groups; g < groups; ++g) {
    const state = m.state(g);
    if (m.settled(g) && isQuiet(input, g, frame, state.address, 12)) {
      out.fill(g, frame, frames, splat(0));
      continue;
    }
    resting = false;
    let x = input.row(g, frame),
      l = level.row(g, frame);
    const xs = input.step(g),
      ls = level.step(g),
      q = out.write(g, frame),
      fixedLevel = gainOfDb(v128.load(l));
    for (let f: u32 = 0; f < frames; ++f) {
      v128.store(q + (f << 4), mul(v128.load(x), ls ? gainOfDb(v128.load(l)) : fixedLevel));
      x += xs;
      l += ls;
    }
    for (let n: u32 = 0; n < BANDS; ++n) {
      const base = P.PARAM_B1FREQ + <usize>n * STEP,
        type = m.choice(P.SET_B1TYPE + (n << 2)),
        at = state.bandsAt + (n << 5);
      const on = m.signal(base + 12),
        gain = m.signal(base + 4);
      const shapes = type == P.B1TYPE_BELL || type == P.B1TYPE_LOWSHELF || type == P.B1TYPE_HIGHSHELF;
      const off = on.isConstant(g) && !v128.any_true(v128.load(on.row(g, frame)));
      // Nothing to do, and nothing moving: the sound passes to the last bit.
      if (off || (shapes && gain.isConstant(g) && !v128.any_true(v128.load(gain.row(g, frame))))) {
        v128.store(at, splat(0));
        v128.store(at, splat(0), 16);
        continue;
      }
      const steady =
          on.isConstant(g) &&
          gain.isConstant(g) &&
          m.signal(base).isConstant(g) &&
          m.signal(base + 8).isConstant(g),
        row = scratch(6);
      for (let f: u32 = 0; f < frames; ++f) {
        if (f == 0 || !steady) place(m, n, g, frame + f, row);
        const p = q + (f << 4),
          dry = v128.load(p);
        const band = bandOf(at, dry, v128.load(row), v128.load(row, 16)),
          low = lowOf(at, band, v128.load(row));
        const wet = add(
          mul(v128.load(row, 32), dry),
          madd(v128.load(row, 48), band, mul(v128.load(row, 64), low)),
        );
        v128.store(p, madd(on.at(g, frame + f), sub(wet, dry), dry));
      }
    }
  }
  if (resting) m.rest();
}
