// Chorus: up to six readers of one ring, moved by one slow wave each at its own place, and their mean fed back.
import * as P from "../../../generated/chorus.as";
import { sampleRate, time } from "../../../kernels/time.as";
import { maskOf, readSides, SLACK, slotOf } from "../../../kernels/delays.as";
import { LOOP_KNEE, LOOP_RANGE, softLimit } from "../../../kernels/limits.as";
import { scratch } from "../../../kernels/scratch.as";
import { phaseRow, sidesApart, sineAt, stepTo, turnedBy } from "../../../kernels/sweep.as";
import { add, clamp, madd, mixed, mul, splat } from "../../../kernels/simd.as";

const COPIES: u32 = 6;
/** Where copies stand on the wave, in cycles: the same however many there are, so that none jumps when others come. */
const PLACES: usize = memory.data<f32>([0, 0.5, 0.25, 0.75, 0.125, 0.625], 16);
/** The wave reaches so far, as a share of the time. */
const REACH: f32 = 0.9;
const FADE_SECONDS: f32 = 0.02;
const PHASES: u32 = 0;

/**
 * Loudness of n copies against one, between copies that agree and copies that do not: sqrt((1 + n) / 2) of their mean.
 * `weight`: of the first copy, 1 / n where all have arrived.
 */
@inline function together(weight: v128): v128 {
  return f32x4.sqrt(mul(splat(0.5), add(splat(1), f32x4.div(splat(1), f32x4.max(weight, splat(1.0 / 6.0))))));
}


@inline function goalOf(copies: v128, n: u32): v128 {
  return v128.and(f32x4.div(splat(1), copies), f32x4.gt(copies, splat(<f32>n + 0.5)));
}

/** Every copy's share of the mean on its way: 1 / n, or nothing. */
function moveWeights(state: P.State, copies: v128, fade: f32): void {
  const isFirst = !v128.any_true(state.isStarted);
  for (let n: u32 = 0; n < COPIES; ++n) {
    const at = state.weightsAt + (n << 4),
      goal = goalOf(copies, n);
    v128.store(at, isFirst ? goal : stepTo(v128.load(at), goal, fade));
  }
  state.isStarted = i32x4.splat(-1);
}

function haveArrived(state: P.State, copies: v128): bool {
  let away = splat(0);
  for (let n: u32 = 0; n < COPIES; ++n)
    away = v128.or(away, f32x4.ne(v128.load(state.weightsAt + (n << 4)), goalOf(copies, n)));
  return !v128.any_true(away);
}

export function process(m: P.Module, frame: u32, frames: u32): void {
  const input = m.in;
  const bytes = m.auxBytes / m.groups,
    mask = maskOf(bytes),
    most = splat(<f32>(mask - SLACK)),
    perMs = splat(sampleRate / 1000),
    fade: f32 = 1 / (FADE_SECONDS * sampleRate);
  const isPair = m.voiceCount * m.sideCount <= 2;
  let resting = true;
  for (let g: u32 = 0, groups = m.groups; g < groups; ++g) {
    const state = m.state(g),
      ring = m.aux + <usize>g * bytes,
      weights = state.weightsAt;
    const silent = input.isConstant(g) && !v128.any_true(v128.load(input.row(g, frame)));
    let quiet = load<u32>(state.quietAt);
    const phases = scratch(PHASES);
    phaseRow(state.phaseAt, m.rate, m.reset, m.sync, g, frame, frames, phases);
    if (silent && quiet > mask) {
      m.outOut.fill(g, frame, frames, splat(0));
      continue;
    }
    resting = false;
    const isSteady = m.copies.isConstant(g) && haveArrived(state, m.copies.at(g, frame));
    const isStill =
      (m.time.step(g) |
        m.depth.step(g) |
        m.copies.step(g) |
        m.spread.step(g) |
        m.feedback.step(g) |
        m.mix.step(g)) ==
      0;
    // Copies from here on are silent, and stay so.
    let used: u32 = COPIES;
    while (isSteady && used > 1 && !v128.any_true(v128.load(weights + ((used - 1) << 4)))) --used;
    let loudness = splat(1),
      base = splat(0),
      reach = splat(0),
      copies = splat(1),
      apart = splat(0),
      feedback = splat(0),
      mix = splat(0);
    for (let f: u32 = 0; f < frames; ++f) {
      const x = input.at(g, frame + f);
      if (f == 0 || !isStill) {
        base = mul(m.time.at(g, frame + f), perMs);
        reach = mul(base, mul(m.depth.at(g, frame + f), splat(REACH)));
        copies = m.copies.at(g, frame + f);
        apart = sidesApart(m.spread.at(g, frame + f));
        feedback = m.feedback.at(g, frame + f);
        mix = m.mix.at(g, frame + f);
      }
      const phase = i32x4.add(v128.load(phases + (f << 4)), apart);
      if (!isSteady) moveWeights(state, copies, fade);
      let mean = splat(0),
        wave = splat(0);
      for (let n: u32 = 0; n < used; ++n) {
        const weight = v128.load(weights + (n << 4));
        if (!v128.any_true(weight)) continue;
        // Of two copies half a cycle apart one goes as the other comes.
        wave = n & 1 ? f32x4.neg(wave) : sineAt(i32x4.add(phase, turnedBy(load<f32>(PLACES + (n << 2)))));
        const delay = clamp(madd(reach, wave, base), splat(1), most);
        mean = madd(weight, readSides(isPair, ring, mask, time + frame + f, delay), mean);
      }
      if (!isSteady || f == 0) loudness = together(v128.load(weights));
      const kept = softLimit(madd(feedback, mean, x), LOOP_KNEE, LOOP_RANGE);
      quiet = v128.any_true(kept) ? 0 : quiet + 1;
      v128.store(slotOf(ring, mask, time + frame + f), kept);
      m.outOut.put(g, frame + f, mixed(x, mul(mean, loudness), mix));
    }
    store<u32>(state.quietAt, min<u32>(quiet, 0x7fffffff));
  }
  if (resting) m.rest();
}
