// Phaser: a chain of first-order all-passes at one moving frequency, with feedback around the chain that costs no
// sample: the chain is linear in what goes in, y = A x + B, so that y = (A x + B) / (1 - feedback A).
import * as P from "../../../generated/phaser.as";
import { framePeriod, sampleRate } from "../../../kernels/time.as";
import { tangentOfShare } from "../../../kernels/filters.as";
import { isQuiet } from "../../../kernels/quiet.as";
import { scratch } from "../../../kernels/scratch.as";
import { phaseRow, sidesApart, sineAt, stepTo } from "../../../kernels/sweep.as";
import { add, div, exp2, madd, mixed, mul, splat, sub } from "../../../kernels/simd.as";

const STAGES: u32 = 16;
/** The wave reaches so many octaves up and down. */
const OCTAVES: f32 = 3;
const FADE_SECONDS: f32 = 0.02;
const PHASES: u32 = 0;


@inline function mostOf(x: v128): u32 {
  return <u32>(
    max(
      max(f32x4.extract_lane(x, 0), f32x4.extract_lane(x, 1)),
      max(f32x4.extract_lane(x, 2), f32x4.extract_lane(x, 3)),
    )
  );
}

/** Do some lanes take another number of stages than `count`, or are on their way to it? */
@inline function isFading(state: P.State, count: u32): bool {
  const all = splat(<f32>count);
  return v128.any_true(v128.or(f32x4.ne(state.stagesNow, all), f32x4.ne(state.stagesNext, all)));
}

/** Moves the cross-fade between numbers of stages on: the next change begins when the last has ended. Stages that run. */
@inline function moveStages(state: P.State, wanted: v128, fade: f32): u32 {
  if (!v128.any_true(state.isStarted)) {
    state.stagesNow = wanted;
    state.stagesNext = wanted;
    state.arrived = splat(1);
    state.isStarted = i32x4.splat(-1);
  }
  const isThere = f32x4.ge(state.arrived, splat(1));
  const now = v128.bitselect(state.stagesNext, state.stagesNow, isThere),
    next = v128.bitselect(wanted, state.stagesNext, isThere);
  const isSame = f32x4.eq(now, next);
  const before = max(mostOf(state.stagesNow), mostOf(state.stagesNext)),
    count = max(mostOf(now), mostOf(next));
  // What begins to run has nothing in it.
  for (let n = before; n < count; ++n) v128.store(state.passesAt + (n << 4), splat(0));
  state.stagesNow = now;
  state.stagesNext = next;
  state.arrived = v128.bitselect(
    splat(1),
    stepTo(v128.andnot(state.arrived, v128.andnot(isThere, isSame)), splat(1), fade),
    isSame,
  );
  return count;
}

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
    const isSteady = m.stages.isConstant(g) && !isFading(state, count) && v128.any_true(state.isStarted);
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
      if (!isSteady) count = moveStages(state, f32x4.nearest(m.stages.at(g, frame + f)), fade);
      let slope = splat(1),
        rest = splat(0);
      if (!isFading(state, count)) {
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
          const isNow = f32x4.eq(state.stagesNow, splat(<f32>(n + 1))),
            isNext = f32x4.eq(state.stagesNext, splat(<f32>(n + 1)));
          slopeNow = v128.bitselect(slope, slopeNow, isNow);
          restNow = v128.bitselect(rest, restNow, isNow);
          slopeNext = v128.bitselect(slope, slopeNext, isNext);
          restNext = v128.bitselect(rest, restNext, isNext);
        }
        slope = madd(state.arrived, sub(slopeNext, slopeNow), slopeNow);
        rest = madd(state.arrived, sub(restNext, restNow), restNow);
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
