// LFO: a 64-bit phase per lane and the plain shapes of it.
import * as P from "../../../generated/lfo.as";
import {
  beatAt,
  choiceOf,
  groupsOf,
  isWanted,
  pointerTo,
  sampleRate,
  signalAt,
  stateOf,
  strideOf,
  writeTo,
} from "../../../kernels/instance.as";
import { add, lower, madd, mul, select, splat, sub } from "../../../kernels/simd.as";
import { shapeAt } from "../../../kernels/waves.as";
import { beatsOfNoteValue } from "../../../kernels/notevalues.as";

const TO_FIXED: f32 = 4294967296.0;
const FROM_FIXED: f32 = 1.0 / 4294967296.0;
const SHAPES: u32 = 5;

function processGroup(instance: usize, g: u32, frame: u32, frames: u32): void {
  const state = stateOf(instance, g);
  const rate = signalAt(instance, P.PARAM_RATE),
    phase = signalAt(instance, P.PARAM_PHASE),
    width = signalAt(instance, P.PARAM_WIDTH);
  const fade = signalAt(instance, P.PARAM_FADE),
    level = signalAt(instance, P.PARAM_LEVEL),
    reset = signalAt(instance, P.IN_RESET);
  let pRate = pointerTo(rate, g, frame),
    pPhase = pointerTo(phase, g, frame),
    pWidth = pointerTo(width, g, frame);
  let pFade = pointerTo(fade, g, frame),
    pLevel = pointerTo(level, g, frame),
    pReset = pointerTo(reset, g, frame);
  const sRate = strideOf(rate, g),
    sPhase = strideOf(phase, g),
    sWidth = strideOf(width, g),
    sFade = strideOf(fade, g);
  const sLevel = strideOf(level, g),
    sReset = strideOf(reset, g);
  const chosen = <u32>choiceOf(instance, P.SET_SHAPE);
  const unipolar = choiceOf(instance, P.SET_POLARITY) == P.POLARITY_UNIPOLAR;
  const sync = choiceOf(instance, P.SET_SYNC);
  const cycleBeats = sync > 0 ? beatsOfNoteValue(sync - 1) : 0;
  let high = v128.load(state + P.STATE_HIGH),
    low = v128.load(state + P.STATE_LOW),
    before = v128.load(state + P.STATE_RESETBEFORE);
  let age = v128.load(state + P.STATE_AGE),
    offset = v128.load(state + P.STATE_OFFSET);
  const perFixed = splat(TO_FIXED / sampleRate),
    perFrame = splat(1 / sampleRate);
  for (let f: u32 = 0; f < frames; ++f) {
    const gate = v128.load(pReset);
    const rises = v128.and(f32x4.gt(gate, splat(0.5)), f32x4.le(before, splat(0.5)));
    before = gate;
    if (sync > 0) {
      const cycles = beatAt(frame + f) / cycleBeats;
      const now = i32x4.splat(<i32>(<u32>(<u64>((cycles - floor(cycles)) * 4294967296.0))));
      offset = select(now, offset, rises);
      high = i32x4.sub(now, offset);
    } else {
      high = v128.andnot(high, rises);
      low = v128.andnot(low, rises);
    }
    age = v128.andnot(age, rises);
    const turn = v128.load(pPhase);
    const shift = i32x4.trunc_sat_f32x4_s(mul(sub(turn, f32x4.nearest(turn)), splat(TO_FIXED)));
    const s = mul(f32x4.convert_i32x4_s(i32x4.add(high, shift)), splat(FROM_FIXED));
    const p = add(s, v128.and(f32x4.lt(s, splat(0)), splat(1)));
    const w = v128.load(pWidth);
    const fadeTime = v128.load(pFade);
    const reached = select(lower(f32x4.div(age, fadeTime), splat(1)), splat(1), f32x4.gt(fadeTime, splat(0)));
    const gain = mul(v128.load(pLevel), reached);
    age = add(age, perFrame);
    for (let shape: u32 = 0; shape <= SHAPES; ++shape) {
      const out = signalAt(instance, P.OUT_OUT + (shape << 2));
      if (!isWanted(out)) continue;
      let y = shapeAt(shape == 0 ? chosen : shape - 1, s, p, w);
      if (unipolar) y = madd(y, splat(0.5), splat(0.5));
      v128.store(writeTo(out, g, frame + f), mul(gain, y));
    }
    if (sync == 0) {
      const fixed = mul(v128.load(pRate), perFixed);
      const whole = f32x4.floor(fixed);
      const nextLow = i32x4.add(
        low,
        v128.xor(
          i32x4.trunc_sat_f32x4_s(mul(sub(sub(fixed, whole), splat(0.5)), splat(TO_FIXED))),
          i32x4.splat(<i32>0x80000000),
        ),
      );
      high = i32x4.sub(i32x4.add(high, i32x4.trunc_sat_f32x4_s(whole)), i32x4.lt_u(nextLow, low));
      low = nextLow;
    }
    pRate += sRate;
    pPhase += sPhase;
    pWidth += sWidth;
    pFade += sFade;
    pLevel += sLevel;
    pReset += sReset;
  }
  v128.store(state + P.STATE_HIGH, high);
  v128.store(state + P.STATE_LOW, low);
  v128.store(state + P.STATE_RESETBEFORE, before);
  v128.store(state + P.STATE_AGE, age);
  v128.store(state + P.STATE_OFFSET, offset);
}

export function process(instance: usize, frame: u32, frames: u32): void {
  for (let g: u32 = 0, groups = groupsOf(instance); g < groups; ++g) processGroup(instance, g, frame, frames);
}
