// Noise from the counter-based generator: hash(counter, seed of module and voice).
//
// Pink: a chain of first-order shelves, a pole and a zero each, spaced evenly on the octave axis, approximates
// 1/sqrt(f) (Keshner, "1/f noise", Proc. IEEE 1982). Pairs are a factor SPACING apart; a zero stands sqrt(SPACING) above
// its pole. Each section is mapped by its own corner.
import * as P from "../../../generated/noise.as";
import {
  rest,
  settled,
  time,
  groupsOf,
  isWanted,
  drawSeedsOf,
  pointerTo,
  sampleRate,
  signalAt,
  stateOf,
  strideOf,
  writeConstant,
  writeTo,
} from "../../../kernels/instance.as";
import { add, bipolar, madd, mixBits, mul, splat, sub } from "../../../kernels/simd.as";

const SECTIONS = 10;
/** Corner of the lowest pole as a share of the sample rate (4.5 Hz at 48 kHz). */
const LOWEST: f64 = 4.5 / 48000;
const SPACING: f64 = 2.2;
/** A last zero, 1 + 0.16 z^-1, straightens the top: with it every octave from 31 Hz to 16 kHz is within 0.03 dB of -3.01. */
const LAST_ZERO: f32 = 0.16;
/** Levels that bring each colour near -12 dB RMS below full scale, like white's own -4.8 dB less its peaks. */
const PINK_GAIN: f32 = 0.113;
const BLUE_GAIN: f32 = 0.6;
/** Brown leaks below this, or it would wander off for ever. */
const BROWN_CORNER: f64 = 5;
const BROWN_GAIN: f32 = 20;
/** (1 + a z^-1) / (1 + a) bends the top of the running sum down to where an integral lies: within 0.1 dB up to 16 kHz. */
const BROWN_ZERO: f32 = 0.135;

const coefficients: usize = memory.data(10 * 16, 16);
let prepared = false;

/** Pole and zero of every section: (1 - zero z^-1) / (1 - pole z^-1), by matched corners. */
function prepareSections(): void {
  if (prepared) return;
  prepared = true;
  let corner = LOWEST;
  for (let i = 0; i < SECTIONS; ++i) {
    const pole = Math.tan(Math.PI * corner);
    const zero = Math.tan(Math.PI * corner * Math.sqrt(SPACING));
    store<f32>(coefficients + (i << 4), <f32>((1 - pole) / (1 + pole)));
    store<f32>(coefficients + (i << 4), <f32>((1 - zero) / (1 + zero)), 4);
    // Gain 1 at high frequencies would leave pink loud below: scale each to unit gain at DC divided by sqrt(spacing).
    store<f32>(coefficients + (i << 4), <f32>((1 + zero) / (1 + pole)), 8);
    store<f32>(coefficients + (i << 4), <f32>((1 + pole) / (1 + zero)), 12);
    corner *= SPACING;
  }
}

/** One sample through the chain, transposed form: each section's state is what it owes the next sample. */
// @ts-ignore: decorator
@inline function pinken(state: usize, x: v128): v128 {
  let y = x;
  for (let i = 0; i < SECTIONS; ++i) {
    const c = coefficients + (i << 4);
    const scaled = mul(y, v128.load32_splat(c, 8));
    y = add(scaled, v128.load(state + (i << 4)));
    v128.store(state + (i << 4), sub(mul(v128.load32_splat(c), y), mul(v128.load32_splat(c, 4), scaled)));
  }
  const before = v128.load(state + (SECTIONS << 4));
  v128.store(state + (SECTIONS << 4), y);
  return madd(before, splat(LAST_ZERO), y);
}

/** The inverse chain, poles and zeros exchanged: blue rises as pink falls. */
// @ts-ignore: decorator
@inline function whitenPink(state: usize, x: v128): v128 {
  let y = x;
  for (let i = 0; i < SECTIONS; ++i) {
    const c = coefficients + (i << 4);
    const out = add(y, v128.load(state + (i << 4)));
    v128.store(state + (i << 4), sub(mul(v128.load32_splat(c, 4), out), mul(v128.load32_splat(c), y)));
    y = mul(out, v128.load32_splat(c, 12));
  }
  y = sub(y, mul(v128.load(state + (SECTIONS << 4)), splat(LAST_ZERO)));
  v128.store(state + (SECTIONS << 4), y);
  return y;
}

export function process(instance: usize, frame: u32, frames: u32): void {
  prepareSections();
  const white = signalAt(instance, P.OUT_WHITE),
    pink = signalAt(instance, P.OUT_PINK),
    brown = signalAt(instance, P.OUT_BROWN);
  const blue = signalAt(instance, P.OUT_BLUE),
    dust = signalAt(instance, P.OUT_DUST);
  const level = signalAt(instance, P.PARAM_LEVEL),
    density = signalAt(instance, P.PARAM_DENSITY);
  const leak = splat(<f32>(1.0 - (2.0 * Math.PI * BROWN_CORNER) / <f64>sampleRate));
  const brownStep = splat(<f32>((<f64>BROWN_GAIN * 2.0 * Math.PI * BROWN_CORNER) / <f64>sampleRate));
  let resting = true;
  for (let g: u32 = 0, groups = groupsOf(instance); g < groups; ++g) {
    const state = stateOf(instance, g);
    const seeds = drawSeedsOf(instance, g);
    // Numbered from the first frame it lived: nobody need count while it is silent.
    if (!load<u32>(state + P.STATE_COUNTER, 4)) {
      store<u32>(state + P.STATE_COUNTER, time + frame);
      store<u32>(state + P.STATE_COUNTER, 1, 4);
    }
    const first = time + frame - load<u32>(state + P.STATE_COUNTER);
    // Silenced, and nothing with a memory is asked for: the counter alone moves on.
    if (
      !isWanted(pink) &&
      !isWanted(brown) &&
      !isWanted(blue) &&
      strideOf(level, g) == 0 &&
      !v128.any_true(v128.load(pointerTo(level, g, frame)))
    ) {
      writeConstant(white, g, frame, frames, splat(0));
      writeConstant(dust, g, frame, frames, splat(0));
      if (!settled(instance, g)) resting = false;
      continue;
    }
    resting = false;
    let l = pointerTo(level, g, frame),
      d = pointerTo(density, g, frame);
    const ls = strideOf(level, g),
      ds = strideOf(density, g);
    const wantWhite = isWanted(white),
      wantPink = isWanted(pink),
      wantBrown = isWanted(brown),
      wantBlue = isWanted(blue),
      wantDust = isWanted(dust);
    let pWhite: usize = wantWhite ? writeTo(white, g, frame) : 0,
      pPink: usize = wantPink ? writeTo(pink, g, frame) : 0;
    let pBrown: usize = wantBrown ? writeTo(brown, g, frame) : 0,
      pBlue: usize = wantBlue ? writeTo(blue, g, frame) : 0;
    let pDust: usize = wantDust ? writeTo(dust, g, frame) : 0;
    let walk = v128.load(state + P.STATE_BROWN);
    for (let f: u32 = 0; f < frames; ++f) {
      const bits = mixBits(i32x4.add(i32x4.splat(<i32>((first + f) * 0x9e3779b9)), seeds));
      const x = bipolar(bits);
      const gain = v128.load(l);
      if (wantWhite) {
        v128.store(pWhite, mul(gain, x));
        pWhite += 16;
      }
      if (wantPink) {
        v128.store(pPink, mul(gain, mul(pinken(state + P.STATE_PINK, x), splat(PINK_GAIN))));
        pPink += 16;
      }
      if (wantBrown) {
        const walkBefore = walk;
        walk = madd(walk, leak, mul(brownStep, x));
        v128.store(
          pBrown,
          mul(gain, mul(madd(walkBefore, splat(BROWN_ZERO), walk), splat(1 / (1 + BROWN_ZERO)))),
        );
        pBrown += 16;
      }
      if (wantBlue) {
        v128.store(pBlue, mul(gain, mul(whitenPink(state + P.STATE_BLUE, x), splat(BLUE_GAIN))));
        pBlue += 16;
      }
      if (wantDust) {
        const chance = mul(v128.load(d), splat(<f32>1 / sampleRate));
        const draw = f32x4.abs(bipolar(mixBits(v128.xor(bits, i32x4.splat(0x51ed270b)))));
        v128.store(pDust, mul(gain, v128.and(f32x4.lt(draw, chance), f32x4.abs(x))));
        pDust += 16;
      }
      l += ls;
      d += ds;
    }
    v128.store(state + P.STATE_BROWN, walk);
  }
  if (resting) rest(instance);
}
