import * as P from "../../../generated/folder.as";
import { SIGNAL_FIXED } from "../../../kernels/abi";
import {
  groupsOf,
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
import { dcCoefficient, withoutDc } from "../../../kernels/onepole.as";
import { downsample, upsample } from "../../../kernels/oversample.as";
import { curve, FOLD, shapeRow } from "../../../kernels/shapes.as";
import { isQuiet } from "../../../kernels/quiet.as";
import { add, madd, mul, splat, sub } from "../../../kernels/simd.as";

/** Folds at 1: driven ten times over, a full-scale sine turns round at ±1 four to five times a flank. */
const MOST_GAIN: f32 = 9;

export function process(instance: usize, frame: u32, frames: u32): void {
  const input = signalAt(instance, P.IN_IN),
    out = signalAt(instance, P.OUT_OUT),
    dc = splat(dcCoefficient());
  const inLoop = load<u32>(out, SIGNAL_FIXED) != 0;
  const folds = signalAt(instance, P.PARAM_FOLDS),
    symmetry = signalAt(instance, P.PARAM_SYMMETRY),
    level = signalAt(instance, P.PARAM_OUTPUT);
  let resting = true;
  for (let g: u32 = 0, groups = groupsOf(instance); g < groups; ++g) {
    const state = stateOf(instance, g);
    let bp = pointerTo(symmetry, g, frame),
      gp = pointerTo(folds, g, frame),
      lp = pointerTo(level, g, frame);
    if (settled(instance, g) && isQuiet(input, g, frame, state, 51) && !v128.any_true(v128.load(bp))) {
      writeConstant(out, g, frame, frames, splat(0));
      continue;
    }
    resting = false;
    const x = pointerTo(input, g, frame),
      xs = strideOf(input, g),
      bs = strideOf(symmetry, g),
      gs = strideOf(folds, g),
      ls = strideOf(level, g);
    const wet = scratch(2),
      one = splat(1),
      most = splat(MOST_GAIN);
    if (inLoop) {
      for (let f: u32 = 0; f < frames; ++f)
        v128.store(
          wet + (f << 4),
          curve(
            FOLD,
            madd(v128.load(x + f * xs), madd(v128.load(gp + f * gs), most, one), v128.load(bp + f * bs)),
          ),
        );
    } else {
      const row = upsample(state + P.STATE_OVER, x, xs, frames),
        factor = oversampling,
        share = splat(1 / <f32>factor);
      let from = v128.load(state + P.STATE_GAINBEFORE),
        biasFrom = v128.load(state + P.STATE_BIASBEFORE),
        p = row;
      if (!v128.any_true(from)) {
        from = madd(v128.load(gp), most, one);
        biasFrom = v128.load(bp);
      }
      for (let f: u32 = 0; f < frames; ++f) {
        const to = madd(v128.load(gp + f * gs), most, one),
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
      shapeRow(FOLD, state + P.STATE_LAST, row, frames * factor);
      downsample(state + P.STATE_OVER, row, wet, frames);
    }
    const q = writeTo(out, g, frame),
      fixedLevel = gainOfDb(v128.load(lp));
    for (let f: u32 = 0; f < frames; ++f) {
      v128.store(
        q + (f << 4),
        mul(
          withoutDc(state + P.STATE_DC, v128.load(wet + (f << 4)), dc),
          ls ? gainOfDb(v128.load(lp)) : fixedLevel,
        ),
      );
      lp += ls;
    }
  }
  if (resting) rest(instance);
}
