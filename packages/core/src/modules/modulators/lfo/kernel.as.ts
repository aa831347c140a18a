// LFO: a 64-bit phase per lane and the plain shapes of it.
import * as P from "../../../generated/lfo.as";
import { beatAt, sampleRate } from "../../../kernels/time.as";
import { add, lower, madd, mul, select, splat, sub } from "../../../kernels/simd.as";
import { shapeAt } from "../../../kernels/waves.as";
import { beatsOfNoteValue } from "../../../kernels/notevalues.as";

const TO_FIXED: f32 = 4294967296.0;
const FROM_FIXED: f32 = 1.0 / 4294967296.0;
const SHAPES: u32 = 5;

function processGroup(m: P.Module, g: u32, frame: u32, frames: u32): void {
  const state = m.state(g);
  const rate = m.rate,
    phase = m.phase,
    width = m.width;
  const fade = m.fade,
    level = m.level,
    reset = m.reset;
  let pRate = rate.row(g, frame),
    pPhase = phase.row(g, frame),
    pWidth = width.row(g, frame);
  let pFade = fade.row(g, frame),
    pLevel = level.row(g, frame),
    pReset = reset.row(g, frame);
  const sRate = rate.step(g),
    sPhase = phase.step(g),
    sWidth = width.step(g),
    sFade = fade.step(g);
  const sLevel = level.step(g),
    sReset = reset.step(g);
  const chosen = <u32>m.shape;
  const unipolar = m.polarity == P.POLARITY_UNIPOLAR;
  const sync = m.sync;
  const cycleBeats = sync > 0 ? beatsOfNoteValue(sync - 1) : 0;
  let high = state.high,
    low = state.low,
    before = state.resetBefore;
  let age = state.age,
    offset = state.offset;
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
      const out = m.signal(P.OUT_OUT + (shape << 2));
      if (!out.isWanted) continue;
      let y = shapeAt(shape == 0 ? chosen : shape - 1, s, p, w);
      if (unipolar) y = madd(y, splat(0.5), splat(0.5));
      v128.store(out.write(g, frame + f), mul(gain, y));
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
  state.high = high;
  state.low = low;
  state.resetBefore = before;
  state.age = age;
  state.offset = offset;
}

export function process(m: P.Module, frame: u32, frames: u32): void {
  for (let g: u32 = 0, groups = m.groups; g < groups; ++g) processGroup(m, g, frame, frames);
}
