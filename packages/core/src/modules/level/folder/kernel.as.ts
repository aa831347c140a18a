import * as P from "../../../generated/folder.as";
import { scratch } from "../../../kernels/scratch.as";
import { oversampling } from "../../../kernels/time.as";
import { gainOfDb } from "../../../kernels/levels.as";
import { dcCoefficient, withoutDc } from "../../../kernels/onepole.as";
import { downsample } from "../../../kernels/oversample.as";
import { upsampleDriven } from "../../../kernels/oversampled.as";
import { curve, FOLD, shapeRow } from "../../../kernels/shapes.as";
import { isQuiet } from "../../../kernels/quiet.as";
import { madd, mul, splat } from "../../../kernels/simd.as";

/** Folds at 1: driven ten times over, a full-scale sine turns round at ±1 four to five times a flank. */
const MOST_GAIN: f32 = 9;
const GAINS: u32 = 0,
  WET: u32 = 2;

export function process(m: P.Module, frame: u32, frames: u32): void {
  const input = m.in,
    out = m.outOut,
    dc = splat(dcCoefficient());
  const inLoop = out.isFixed;
  const folds = m.folds,
    symmetry = m.symmetry,
    level = m.output;
  let resting = true;
  for (let g: u32 = 0, groups = m.groups; g < groups; ++g) {
    const state = m.state(g);
    const bp = symmetry.row(g, frame);
    let gp = folds.row(g, frame),
      lp = level.row(g, frame);
    if (m.settled(g) && isQuiet(input, g, frame, state.address, 51) && !v128.any_true(v128.load(bp))) {
      out.fill(g, frame, frames, splat(0));
      continue;
    }
    resting = false;
    const x = input.row(g, frame),
      xs = input.step(g),
      bs = symmetry.step(g),
      gs = folds.step(g),
      ls = level.step(g);
    const wet = scratch(WET),
      one = splat(1),
      most = splat(MOST_GAIN);
    const gains = scratch(GAINS);
    for (let p = gains, end = gains + ((<usize>frames) << 4); p < end; p += 16) {
      v128.store(p, madd(v128.load(gp), most, one));
      gp += gs;
    }
    if (inLoop) {
      for (let f: u32 = 0; f < frames; ++f)
        v128.store(
          wet + (f << 4),
          curve(FOLD, madd(v128.load(x + f * xs), v128.load(gains + (f << 4)), v128.load(bp + f * bs))),
        );
    } else {
      const row = upsampleDriven(state.overAt, state.gainBeforeAt, x, xs, gains, bp, bs, frames);
      shapeRow(FOLD, state.lastAt, row, frames * oversampling);
      downsample(state.overAt, row, wet, frames);
    }
    const q = out.write(g, frame),
      fixedLevel = gainOfDb(v128.load(lp));
    for (let f: u32 = 0; f < frames; ++f) {
      v128.store(
        q + (f << 4),
        mul(withoutDc(state.dcAt, v128.load(wet + (f << 4)), dc), ls ? gainOfDb(v128.load(lp)) : fixedLevel),
      );
      lp += ls;
    }
  }
  if (resting) m.rest();
}
