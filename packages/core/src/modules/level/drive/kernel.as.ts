import * as P from "../../../generated/drive.as";
import { SIGNAL_FIXED } from "../../../kernels/abi";
import {
  choiceOf,
  groupsOf,
  isConstant,
  oversampling,
  pointerTo,
  rest,
  scratch,
  settled,
  signalAt,
  stateOf,
  strideOf,
  writeConstant,
  writeTo,
} from "../../../kernels/instance.as";
import { gainOfDb } from "../../../kernels/levels.as";
import { dcCoefficient, tiltCoefficient, tilted, withoutDc } from "../../../kernels/onepole.as";
import { downsample, upsample } from "../../../kernels/oversample.as";
import { curveNow, shapeRow } from "../../../kernels/shapes.as";
import { isQuiet } from "../../../kernels/quiet.as";
import { add, madd, mixed, mul, splat, sub } from "../../../kernels/simd.as";

const GAINS: u32 = 0,
  DRY: u32 = 1,
  WET: u32 = 2;

export function process(instance: usize, frame: u32, frames: u32): void {
  const input = signalAt(instance, P.IN_IN),
    out = signalAt(instance, P.OUT_OUT);
  const kind = choiceOf(instance, P.SET_CURVE),
    dc = splat(dcCoefficient()),
    tilt = splat(tiltCoefficient());
  const inLoop = load<u32>(out, SIGNAL_FIXED) != 0;
  const gain = signalAt(instance, P.PARAM_GAIN),
    bias = signalAt(instance, P.PARAM_BIAS),
    tone = signalAt(instance, P.PARAM_TONE),
    mix = signalAt(instance, P.PARAM_MIX),
    level = signalAt(instance, P.PARAM_OUTPUT);
  let resting = true;
  for (let g: u32 = 0, groups = groupsOf(instance); g < groups; ++g) {
    const state = stateOf(instance, g);
    // Silence in and nothing left inside: silence.
    if (
      settled(instance, g) &&
      isQuiet(input, g, frame, state, 100) &&
      !v128.any_true(v128.load(pointerTo(bias, g, frame)))
    ) {
      writeConstant(out, g, frame, frames, splat(0));
      continue;
    }
    resting = false;
    const x = pointerTo(input, g, frame),
      xs = strideOf(input, g),
      gp = pointerTo(gain, g, frame),
      gs = strideOf(gain, g),
      bp = pointerTo(bias, g, frame),
      bs = strideOf(bias, g);
    const wet = scratch(WET),
      gains = scratch(GAINS);
    let dry = x,
      dryStride = xs;
    const fixedGain = gainOfDb(v128.load(gp));
    for (let f: u32 = 0; f < frames; ++f)
      v128.store(gains + (f << 4), gs ? gainOfDb(v128.load(gp + f * gs)) : fixedGain);
    if (inLoop) {
      for (let f: u32 = 0; f < frames; ++f)
        v128.store(
          wet + (f << 4),
          curveNow(kind, madd(v128.load(x + f * xs), v128.load(gains + (f << 4)), v128.load(bp + f * bs))),
        );
    } else {
      const row = upsample(state + P.STATE_OVER, x, xs, frames),
        factor = oversampling;
      const share = splat(1 / <f32>factor);
      // Gain and bias go on in straight lines between samples.
      let from = v128.load(state + P.STATE_GAINBEFORE),
        biasFrom = v128.load(state + P.STATE_BIASBEFORE),
        p = row;
      if (!v128.any_true(from)) {
        from = v128.load(gains);
        biasFrom = v128.load(bp);
      }
      for (let f: u32 = 0; f < frames; ++f) {
        const to = v128.load(gains + (f << 4)),
          biasTo = v128.load(bp + f * bs),
          step = mul(sub(to, from), share),
          biasStep = mul(sub(biasTo, biasFrom), share);
        for (let k: u32 = 0; k < factor; ++k) {
          from = add(from, step);
          biasFrom = add(biasFrom, biasStep);
          v128.store(p, madd(v128.load(p), from, biasFrom));
          p += 16;
        }
        from = to;
        biasFrom = biasTo;
      }
      v128.store(state + P.STATE_GAINBEFORE, from);
      v128.store(state + P.STATE_BIASBEFORE, biasFrom);
      shapeRow(kind, state + P.STATE_LAST, row, frames * factor);
      downsample(state + P.STATE_OVER, row, wet, frames);
      if (!isConstant(mix, g) || v128.any_true(f32x4.ne(v128.load(pointerTo(mix, g, frame)), splat(1)))) {
        // The dry part takes the same way, so that both add up.
        dry = scratch(DRY);
        dryStride = 16;
        downsample(state + P.STATE_DRY, upsample(state + P.STATE_DRY, x, xs, frames), dry, frames);
      }
    }
    let tp = pointerTo(tone, g, frame),
      mp = pointerTo(mix, g, frame),
      lp = pointerTo(level, g, frame),
      q = writeTo(out, g, frame);
    const ts = strideOf(tone, g),
      ms = strideOf(mix, g),
      ls = strideOf(level, g),
      fixedLevel = gainOfDb(v128.load(lp));
    for (let f: u32 = 0; f < frames; ++f) {
      const y = tilted(
        state + P.STATE_TILT,
        withoutDc(state + P.STATE_DC, v128.load(wet + (f << 4)), dc),
        v128.load(tp),
        tilt,
      );
      const d = v128.load(dry + f * dryStride);
      v128.store(q, mul(mixed(d, y, v128.load(mp)), ls ? gainOfDb(v128.load(lp)) : fixedLevel));
      tp += ts;
      mp += ms;
      lp += ls;
      q += 16;
    }
  }
  if (resting) rest(instance);
}
