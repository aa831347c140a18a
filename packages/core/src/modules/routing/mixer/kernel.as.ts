import * as P from "../../../generated/mixer.as";
import { Signal } from "../../../kernels/signal.as";
import { scratch } from "../../../kernels/scratch.as";
import { sampleRate } from "../../../kernels/time.as";
import { bandOf, lowOf, tangentOfShare } from "../../../kernels/filters.as";
import { gainOfLevel } from "../../../kernels/levels.as";
import { isEmpty } from "../../../kernels/quiet.as";
import { shapeBetween, SOFT } from "../../../kernels/shapes.as";
import { add, div, exp2, madd, mul, sineOfCycles, splat, sub } from "../../../kernels/simd.as";

const CHANNELS: u32 = 8;
/** Parameters of a channel, in the order of the description. */
const STEP: usize = 40,
  LEVEL: usize = 0,
  PAN: usize = 4,
  MUTE: usize = 8,
  SOLO: usize = 12,
  INVERT: usize = 16,
  LOW: usize = 20,
  MID: usize = 24,
  HIGH: usize = 28,
  SENDA: usize = 32,
  SENDB: usize = 36;
const LOW_HERTZ: f32 = 250,
  MID_HERTZ: f32 = 1000,
  HIGH_HERTZ: f32 = 4000;
const HALF_OCTAVES: f32 = 0.0830482024;
/** Vectors of all tones of a group. */
const TONES: u32 = 48;
/** A row of 128 frames and a flag. */
const SUM_BYTES: usize = 2064;


@inline function paramOf(m: P.Module, n: u32, which: usize): Signal {
  return m.signal(P.PARAM_LEVEL1 + <usize>n * STEP + which);
}


@inline function isNothing(signal: Signal, g: u32, frame: u32): bool {
  return signal.isConstant(g) && !v128.any_true(v128.load(signal.row(g, frame)));
}

/** Low shelf, bell or high shelf over a row, in place; kind 0, 1, 2. */
function tone(
  kind: u32,
  state: usize,
  row: usize,
  gainSignal: Signal,
  g: u32,
  frame: u32,
  frames: u32,
): void {
  if (isNothing(gainSignal, g, frame)) {
    v128.store(state, splat(0));
    v128.store(state, splat(0), 16);
    return;
  }
  const t = tangentOfShare(splat((kind == 0 ? LOW_HERTZ : kind == 1 ? MID_HERTZ : HIGH_HERTZ) / sampleRate)),
    k: f32 = kind == 1 ? 1.25 : 1.4142136;
  for (let f: u32 = 0; f < frames; ++f) {
    const a = exp2(mul(gainSignal.at(g, frame + f), splat(HALF_OCTAVES))),
      a2 = mul(a, a),
      x = v128.load(row + (f << 4));
    let y = x;
    if (kind == 1) {
      const kk = div(splat(k), a);
      const band = bandOf(state, x, t, kk);
      lowOf(state, band, t);
      y = madd(mul(kk, sub(a2, splat(1))), band, x);
    } else if (kind == 0) {
      const tangent = div(t, f32x4.sqrt(a)),
        band = bandOf(state, x, tangent, splat(k)),
        low = lowOf(state, band, tangent);
      y = add(x, madd(mul(splat(k), sub(a, splat(1))), band, mul(sub(a2, splat(1)), low)));
    } else {
      const tangent = mul(t, f32x4.sqrt(a)),
        band = bandOf(state, x, tangent, splat(k)),
        low = lowOf(state, band, tangent);
      y = madd(a2, x, madd(mul(mul(splat(k), a), sub(splat(1), a)), band, mul(sub(splat(1), a2), low)));
    }
    v128.store(row + (f << 4), y);
  }
}

/** A group's sum of channels, frame by frame, and in the vector behind it whether all of it is silent. */
@inline function sumOf(m: P.Module, g: u32): usize {
  return m.aux + <usize>g * SUM_BYTES;
}

/** Channels into their sum and the sends. Returns are not heard here: what comes back is no loop. */
export function channels(m: P.Module, frame: u32, frames: u32): void {
  const sendA = m.outSendA,
    sendB = m.outSendB;
  for (let g: u32 = 0, groups = m.groups; g < groups; ++g) {
    const state = m.state(g),
      sum = sumOf(m, g) + ((<usize>frame) << 4),
      a = scratch(1),
      b = scratch(2),
      row = scratch(3);
    let silent = true;
    for (let n: u32 = 0; silent && n < CHANNELS; ++n)
      silent = isNothing(m.signal(P.IN_IN1 + (n << 2)), g, frame);
    silent = silent && isEmpty(state.tonesAt, TONES);
    store<u32>(sumOf(m, g), silent ? 1 : 0, 2048);
    memory.fill(sum, 0, (<usize>frames) << 4);
    if (silent) {
      sendA.fill(g, frame, frames, splat(0));
      sendB.fill(g, frame, frames, splat(0));
      continue;
    }
    memory.fill(a, 0, (<usize>frames) << 4);
    memory.fill(b, 0, (<usize>frames) << 4);
    let soloed = false;
    for (let n: u32 = 0; n < CHANNELS; ++n) if (!isNothing(paramOf(m, n, SOLO), g, frame)) soloed = true;
    for (let n: u32 = 0; n < CHANNELS; ++n) {
      const input = m.signal(P.IN_IN1 + (n << 2)),
        tones = state.tonesAt + <usize>n * 96;
      if (isNothing(input, g, frame) && isEmpty(tones, 6)) continue;
      for (let f: u32 = 0; f < frames; ++f) v128.store(row + (f << 4), input.at(g, frame + f));
      tone(0, tones, row, paramOf(m, n, LOW), g, frame, frames);
      tone(1, tones + 32, row, paramOf(m, n, MID), g, frame, frames);
      tone(2, tones + 64, row, paramOf(m, n, HIGH), g, frame, frames);
      addChannel(m, n, g, frame, frames, soloed, row, sum, a, b);
    }
    for (let f: u32 = 0; f < frames; ++f) {
      sendA.put(g, frame + f, v128.load(a + (f << 4)));
      sendB.put(g, frame + f, v128.load(b + (f << 4)));
    }
  }
}

/** A channel, toned, into the sum and both sends. */
@inline function addChannel(
  m: P.Module,
  n: u32,
  g: u32,
  frame: u32,
  frames: u32,
  soloed: bool,
  row: usize,
  sum: usize,
  a: usize,
  b: usize,
): void {
  const gain = paramOf(m, n, LEVEL),
    fixed = gain.isConstant(g),
    fixedGain = gainOfLevel(v128.load(gain.row(g, frame)));
  for (let f: u32 = 0; f < frames; ++f) {
    const at = frame + f;
    // Equal power, as the pan module.
    const side = mul(paramOf(m, n, PAN).at(g, at), f32x4(-1, 1, -1, 1));
    let loud = mul(
      fixed ? fixedGain : gainOfLevel(gain.at(g, at)),
      sineOfCycles(madd(side, splat(0.125), splat(0.125))),
    );
    loud = v128.andnot(loud, f32x4.gt(paramOf(m, n, MUTE).at(g, at), splat(0.5)));
    if (soloed) {
      let any = i32x4.splat(0);
      for (let other: u32 = 0; other < CHANNELS; ++other)
        any = v128.or(any, f32x4.gt(paramOf(m, other, SOLO).at(g, at), splat(0.5)));
      loud = v128.andnot(loud, v128.andnot(any, f32x4.gt(paramOf(m, n, SOLO).at(g, at), splat(0.5))));
    }
    loud = v128.xor(
      loud,
      v128.and(f32x4.gt(paramOf(m, n, INVERT).at(g, at), splat(0.5)), i32x4.splat(<i32>0x80000000)),
    );
    const y = mul(v128.load(row + (f << 4)), loud),
      o = f << 4;
    v128.store(sum + o, add(v128.load(sum + o), y));
    v128.store(a + o, madd(y, paramOf(m, n, SENDA).at(g, at), v128.load(a + o)));
    v128.store(b + o, madd(y, paramOf(m, n, SENDB).at(g, at), v128.load(b + o)));
  }
}

/** The sum with what comes back. */
export function master(m: P.Module, frame: u32, frames: u32): void {
  const out = m.outOut,
    level = m.level,
    kind = m.gain;
  let connected: u32 = 0;
  for (let n: u32 = 0; n < CHANNELS; ++n) if (m.signal(P.IN_IN1 + (n << 2)).isCabled) ++connected;
  const share: f32 = kind == P.GAIN_BALANCED ? 1 / sqrt<f32>(<f32>max<u32>(connected, 1)) : 1;
  let resting = true;
  for (let g: u32 = 0, groups = m.groups; g < groups; ++g) {
    const state = m.state(g),
      sum = sumOf(m, g),
      silent = load<u32>(sum, 2048) != 0 && isNothing(m.returnA, g, frame) && isNothing(m.returnB, g, frame);
    if (silent && m.settled(g) && isEmpty(state.limitAt, 2)) {
      out.fill(g, frame, frames, splat(0));
      continue;
    }
    resting = false;
    const fixedLevel = gainOfLevel(v128.load(level.row(g, frame))),
      moves = level.step(g) != 0;
    for (let f = frame, end = frame + frames; f < end; ++f) {
      let y = mul(
        add(add(m.returnA.at(g, f), m.returnB.at(g, f)), v128.load(sum + ((<usize>f) << 4))),
        splat(share),
      );
      if (kind == P.GAIN_SATURATE) y = shapeBetween(SOFT, state.limitAt, y);
      out.put(g, f, mul(y, moves ? gainOfLevel(level.at(g, f)) : fixedLevel));
    }
  }
  if (resting) m.rest();
}
