// Noise from the counter-based generator: hash(counter, seed of module and voice).
//
// Pink: a chain of first-order shelves, a pole and a zero each, spaced evenly on the octave axis, approximates
// 1/sqrt(f) (Keshner, "1/f noise", Proc. IEEE 1982). Pairs are a factor SPACING apart; a zero stands sqrt(SPACING) above
// its pole. Each section is mapped by its own corner.
import * as P from "../../../generated/noise.as";
import { time, sampleRate } from "../../../kernels/time.as";
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

export function process(m: P.Module, frame: u32, frames: u32): void {
  prepareSections();
  const white = m.outWhite,
    pink = m.outPink,
    brown = m.outBrown;
  const blue = m.outBlue,
    dust = m.outDust;
  const level = m.level,
    density = m.density;
  const leak = splat(<f32>(1.0 - (2.0 * Math.PI * BROWN_CORNER) / <f64>sampleRate));
  const brownStep = splat(<f32>((<f64>BROWN_GAIN * 2.0 * Math.PI * BROWN_CORNER) / <f64>sampleRate));
  let resting = true;
  for (let g: u32 = 0, groups = m.groups; g < groups; ++g) {
    const state = m.state(g);
    const seeds = m.drawSeeds(g);
    // Numbered from the first frame it lived: nobody need count while it is silent.
    if (!load<u32>(state.counterAt, 4)) {
      store<u32>(state.counterAt, time + frame);
      store<u32>(state.counterAt, 1, 4);
    }
    const first = time + frame - load<u32>(state.counterAt);
    // Nothing is asked for, or it is silenced and nothing with a memory is asked for: the counter alone moves on.
    if (
      !pink.isWanted &&
      !brown.isWanted &&
      !blue.isWanted &&
      ((!white.isWanted && !dust.isWanted) ||
        (level.step(g) == 0 && !v128.any_true(v128.load(level.row(g, frame)))))
    ) {
      white.fill(g, frame, frames, splat(0));
      dust.fill(g, frame, frames, splat(0));
      if (!m.settled(g)) resting = false;
      continue;
    }
    resting = false;
    let l = level.row(g, frame),
      d = density.row(g, frame);
    const ls = level.step(g),
      ds = density.step(g);
    const wantWhite = white.isWanted,
      wantPink = pink.isWanted,
      wantBrown = brown.isWanted,
      wantBlue = blue.isWanted,
      wantDust = dust.isWanted;
    let pWhite: usize = wantWhite ? white.write(g, frame) : 0,
      pPink: usize = wantPink ? pink.write(g, frame) : 0;
    let pBrown: usize = wantBrown ? brown.write(g, frame) : 0,
      pBlue: usize = wantBlue ? blue.write(g, frame) : 0;
    let pDust: usize = wantDust ? dust.write(g, frame) : 0;
    let walk = state.brown;
    for (let f: u32 = 0; f < frames; ++f) {
      const bits = mixBits(i32x4.add(i32x4.splat(<i32>((first + f) * 0x9e3779b9)), seeds));
      const x = bipolar(bits);
      const gain = v128.load(l);
      if (wantWhite) {
        v128.store(pWhite, mul(gain, x));
        pWhite += 16;
      }
      if (wantPink) {
        v128.store(pPink, mul(gain, mul(pinken(state.pinkAt, x), splat(PINK_GAIN))));
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
        v128.store(pBlue, mul(gain, mul(whitenPink(state.blueAt, x), splat(BLUE_GAIN))));
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
    state.brown = walk;
  }
  if (resting) m.rest();
}
