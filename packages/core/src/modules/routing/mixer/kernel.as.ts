import * as P from "../../../generated/mixer.as";
import {
  choiceOf,
  groupsOf,
  isCabled,
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
  isWanted,
} from "../../../kernels/instance.as";
import { band, low, section, tangentOfShare } from "../../../kernels/filters.as";
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

// @ts-ignore: decorator
@inline function paramOf(instance: usize, n: u32, which: usize): usize {
  return signalAt(instance, P.PARAM_LEVEL1 + <usize>n * STEP + which);
}
// @ts-ignore: decorator
@inline function isNothing(signal: usize, g: u32, frame: u32): bool {
  return isConstant(signal, g) && !v128.any_true(v128.load(pointerTo(signal, g, frame)));
}

/** Low shelf, bell or high shelf over a row, in place; kind 0, 1, 2. */
function tone(kind: u32, state: usize, row: usize, gainSignal: usize, g: u32, frame: u32, frames: u32): void {
  if (isNothing(gainSignal, g, frame)) {
    v128.store(state, splat(0));
    v128.store(state, splat(0), 16);
    return;
  }
  const t = tangentOfShare(splat((kind == 0 ? LOW_HERTZ : kind == 1 ? MID_HERTZ : HIGH_HERTZ) / sampleRate)),
    k: f32 = kind == 1 ? 1.25 : 1.4142136;
  for (let f: u32 = 0; f < frames; ++f) {
    const a = exp2(mul(peek(gainSignal, g, frame + f), splat(HALF_OCTAVES))),
      a2 = mul(a, a),
      x = v128.load(row + (f << 4));
    let y = x;
    if (kind == 1) {
      const kk = div(splat(k), a);
      section(state, x, t, kk);
      y = madd(mul(kk, sub(a2, splat(1))), band, x);
    } else if (kind == 0) {
      section(state, x, div(t, f32x4.sqrt(a)), splat(k));
      y = add(x, madd(mul(splat(k), sub(a, splat(1))), band, mul(sub(a2, splat(1)), low)));
    } else {
      section(state, x, mul(t, f32x4.sqrt(a)), splat(k));
      y = madd(a2, x, madd(mul(mul(splat(k), a), sub(splat(1), a)), band, mul(sub(splat(1), a2), low)));
    }
    v128.store(row + (f << 4), y);
  }
}

export function process(instance: usize, frame: u32, frames: u32): void {
  const out = signalAt(instance, P.OUT_OUT),
    sendA = signalAt(instance, P.OUT_SENDA),
    sendB = signalAt(instance, P.OUT_SENDB),
    level = signalAt(instance, P.PARAM_LEVEL);
  const kind = choiceOf(instance, P.SET_GAIN);
  let connected: u32 = 0;
  for (let n: u32 = 0; n < CHANNELS; ++n) if (isCabled(signalAt(instance, P.IN_IN1 + (n << 2)))) ++connected;
  const share: f32 = kind == P.GAIN_BALANCED ? 1 / sqrt<f32>(<f32>max<u32>(connected, 1)) : 1;
  let resting = true;
  for (let g: u32 = 0, groups = groupsOf(instance); g < groups; ++g) {
    const state = stateOf(instance, g),
      sum = scratch(0),
      a = scratch(1),
      b = scratch(2),
      row = scratch(3);
    let silent =
      isNothing(signalAt(instance, P.IN_RETURNA), g, frame) &&
      isNothing(signalAt(instance, P.IN_RETURNB), g, frame);
    for (let n: u32 = 0; silent && n < CHANNELS; ++n)
      silent = isNothing(signalAt(instance, P.IN_IN1 + (n << 2)), g, frame);
    if (silent && settled(instance, g) && isEmpty(state, 50)) {
      writeConstant(out, g, frame, frames, splat(0));
      writeConstant(sendA, g, frame, frames, splat(0));
      writeConstant(sendB, g, frame, frames, splat(0));
      continue;
    }
    resting = false;
    for (let f: u32 = 0; f < frames; ++f) {
      v128.store(
        sum + (f << 4),
        add(
          peek(signalAt(instance, P.IN_RETURNA), g, frame + f),
          peek(signalAt(instance, P.IN_RETURNB), g, frame + f),
        ),
      );
      v128.store(a + (f << 4), splat(0));
      v128.store(b + (f << 4), splat(0));
    }
    let soloed = false;
    for (let n: u32 = 0; n < CHANNELS; ++n)
      if (!isNothing(paramOf(instance, n, SOLO), g, frame)) soloed = true;
    for (let n: u32 = 0; n < CHANNELS; ++n) {
      const input = signalAt(instance, P.IN_IN1 + (n << 2)),
        tones = state + P.STATE_TONES + <usize>n * 96;
      if (isNothing(input, g, frame) && isEmpty(tones, 6)) continue;
      for (let f: u32 = 0; f < frames; ++f) v128.store(row + (f << 4), peek(input, g, frame + f));
      tone(0, tones, row, paramOf(instance, n, LOW), g, frame, frames);
      tone(1, tones + 32, row, paramOf(instance, n, MID), g, frame, frames);
      tone(2, tones + 64, row, paramOf(instance, n, HIGH), g, frame, frames);
      const gain = paramOf(instance, n, LEVEL),
        fixed = isConstant(gain, g),
        fixedGain = gainOfLevel(v128.load(pointerTo(gain, g, frame)));
      for (let f: u32 = 0; f < frames; ++f) {
        const at = frame + f;
        // Equal power, as the pan module.
        const side = mul(peek(paramOf(instance, n, PAN), g, at), f32x4(-1, 1, -1, 1));
        let loud = mul(
          fixed ? fixedGain : gainOfLevel(peek(gain, g, at)),
          sineOfCycles(madd(side, splat(0.125), splat(0.125))),
        );
        loud = v128.andnot(loud, f32x4.gt(peek(paramOf(instance, n, MUTE), g, at), splat(0.5)));
        if (soloed) {
          let any = i32x4.splat(0);
          for (let m: u32 = 0; m < CHANNELS; ++m)
            any = v128.or(any, f32x4.gt(peek(paramOf(instance, m, SOLO), g, at), splat(0.5)));
          loud = v128.andnot(
            loud,
            v128.andnot(any, f32x4.gt(peek(paramOf(instance, n, SOLO), g, at), splat(0.5))),
          );
        }
        loud = v128.xor(
          loud,
          v128.and(
            f32x4.gt(peek(paramOf(instance, n, INVERT), g, at), splat(0.5)),
            i32x4.splat(<i32>0x80000000),
          ),
        );
        const y = mul(v128.load(row + (f << 4)), loud),
          o = f << 4;
        v128.store(sum + o, add(v128.load(sum + o), y));
        v128.store(a + o, madd(y, peek(paramOf(instance, n, SENDA), g, at), v128.load(a + o)));
        v128.store(b + o, madd(y, peek(paramOf(instance, n, SENDB), g, at), v128.load(b + o)));
      }
    }
    const fixedLevel = gainOfLevel(v128.load(pointerTo(level, g, frame))),
      moves = strideOf(level, g) != 0;
    for (let f: u32 = 0; f < frames; ++f) {
      const at = frame + f;
      let y = mul(v128.load(sum + (f << 4)), splat(share));
      if (kind == P.GAIN_SATURATE) y = shapeBetween(SOFT, state + P.STATE_LIMIT, y);
      if (isWanted(out))
        v128.store(writeTo(out, g, at), mul(y, moves ? gainOfLevel(peek(level, g, at)) : fixedLevel));
      if (isWanted(sendA)) v128.store(writeTo(sendA, g, at), v128.load(a + (f << 4)));
      if (isWanted(sendB)) v128.store(writeTo(sendB, g, at), v128.load(b + (f << 4)));
    }
  }
  if (resting) rest(instance);
}
