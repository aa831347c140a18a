// Phaser: a chain of first-order all-passes at one moving frequency, with feedback around the chain that costs no
// sample: the chain is linear in what goes in, y = A x + B, so that y = (A x + B) / (1 - feedback A).
import * as P from "../../../generated/phaser.as";
import { framePeriod, sampleRate } from "../../../kernels/time.as";
import { Counting, mostOf } from "../../../kernels/counting.as";
import { tangentOfShare } from "../../../kernels/filters.as";
import { isQuiet } from "../../../kernels/quiet.as";
import { scratch } from "../../../kernels/scratch.as";
import { phaseRow, sidesApart, sineAt } from "../../../kernels/sweep.as";
import { add, div, exp2, madd, mixed, mul, splat, sub } from "../../../kernels/simd.as";

const STAGES: u32 = 16;
/** The wave reaches so many octaves up and down. */
const OCTAVES: f32 = 3;
const FADE_SECONDS: f32 = 0.02;
const PHASES: u32 = 0;

export function process(m: P.Module, frame: u32, frames: u32): void {
  const input = m.in;
  const share = splat(<f32>framePeriod),
    fade: f32 = 1 / (FADE_SECONDS * sampleRate);
  let resting = true;
  for (let g: u32 = 0, groups = m.groups; g < groups; ++g) {
    const state = m.state(g),
      passes = state.passesAt;
    const phases = scratch(PHASES);
    phaseRow(state.phaseAt, m.rate, m.reset, m.sync, g, frame, frames, phases);
    if (isQuiet(input, g, frame, passes, STAGES)) {
      m.outOut.fill(g, frame, frames, splat(0));
      continue;
    }
    resting = false;
    const isStill =
      (m.feedback.step(g) | m.depth.step(g) | m.centre.step(g) | m.spread.step(g) | m.mix.step(g)) == 0;
    let feedback = splat(0),
      reach = splat(0),
      centre = splat(0),
      apart = splat(0),
      mix = splat(0);
    const wanted = f32x4.nearest(m.stages.at(g, frame));
    let count = mostOf(wanted);
    const stages = Counting.at(state.stagesAt),
      isSteady = m.stages.isConstant(g) && stages.isAt(count);
    for (let f: u32 = 0; f < frames; ++f) {
      const x = input.at(g, frame + f);
      if (f == 0 || !isStill) {
        feedback = m.feedback.at(g, frame + f);
        reach = mul(m.depth.at(g, frame + f), splat(OCTAVES));
        centre = mul(m.centre.at(g, frame + f), share);
        apart = sidesApart(m.spread.at(g, frame + f));
        mix = m.mix.at(g, frame + f);
      }
      const octaves = mul(reach, sineAt(i32x4.add(v128.load(phases + (f << 4)), apart)));
      const t = tangentOfShare(mul(centre, exp2(octaves)));
      const a = div(sub(t, splat(1)), add(t, splat(1)));
      if (!isSteady) {
        const before = stages.running;
        count = stages.move(f32x4.nearest(m.stages.at(g, frame + f)), fade);
        // What begins to run has nothing in it.
        for (let n = before; n < count; ++n) v128.store(passes + (n << 4), splat(0));
      }
      let slope = splat(1),
        rest = splat(0);
      if (isSteady || stages.isAt(count)) {
        for (let n: u32 = 0; n < count; ++n) {
          slope = mul(slope, a);
          rest = madd(a, rest, v128.load(passes + (n << 4)));
        }
      } else {
        let slopeNow = slope,
          restNow = rest,
          slopeNext = slope,
          restNext = rest;
        for (let n: u32 = 0; n < count; ++n) {
          slope = mul(slope, a);
          rest = madd(a, rest, v128.load(passes + (n << 4)));
          const isNow = f32x4.eq(stages.now, splat(<f32>(n + 1))),
            isNext = f32x4.eq(stages.next, splat(<f32>(n + 1)));
          slopeNow = v128.bitselect(slope, slopeNow, isNow);
          restNow = v128.bitselect(rest, restNow, isNow);
          slopeNext = v128.bitselect(slope, slopeNext, isNext);
          restNext = v128.bitselect(rest, restNext, isNext);
        }
        slope = stages.between(slopeNow, slopeNext);
        rest = stages.between(restNow, restNext);
      }
      const wet = div(madd(slope, x, rest), sub(splat(1), mul(feedback, slope)));
      let value = madd(feedback, wet, x);
      for (let n: u32 = 0; n < count; ++n) {
        const at = passes + (n << 4);
        const y = madd(a, value, v128.load(at));
        v128.store(at, sub(value, mul(a, y)));
        value = y;
      }
      m.outOut.put(g, frame + f, mixed(x, wet, mix));
    }
  }
  if (resting) m.rest();
}
