import { ZERO } from "../../../kernels/signal.as";
import * as P from "../../../generated/operator.as";
import { scratch } from "../../../kernels/scratch.as";
import { sampleRate } from "../../../kernels/time.as";
import { curveOf } from "../../../kernels/curves.as";
import { cornersIn, inverseOf, limitedIncrement, sawAt, slopes, steps } from "../../../kernels/corners.as";
import { isOn, rising, unmoved } from "../../../kernels/edges.as";
import { fixedCycles, frequencyRow, signedPhase, stepPhase, unsignedPhase } from "../../../kernels/phase.as";
import { add, div, higher, madd, mul, select, sineOfCycles, splat, sub } from "../../../kernels/simd.as";

const IDLE: i32 = 0,
  ATTACK: i32 = 1,
  DECAY: i32 = 2,
  RELEASE: i32 = 3;
const TO_FIXED: f32 = 4294967296.0;
const EAGER: f32 = 1.0000002;
/**
 * Cycles that full feedback turns the phase by: 1.7 radians, bright as a saw. With the mean of the last two samples fed
 * back the loop stays a tone below 2 radians: z^2 = g (z + 1) / 2 has both roots inside the unit circle for -2 < g < 1.
 */
const FEEDBACK_CYCLES: f32 = 0.27;
const FREQUENCIES: u32 = 0;

/** Falls are bent as those of the envelope module. */
const FALL_CURVE: f32 = 0.6;


@inline function when(stage: v128, kind: i32): v128 {
  return i32x4.eq(stage, i32x4.splat(kind));
}


@inline function levelAt(stage: v128, x: v128, from: v128, peak: v128, sustain: v128): v128 {
  const bent = curveOf(x, splat(FALL_CURVE)),
    goal = mul(peak, sustain);
  const attack = madd(sub(peak, from), x, from),
    decay = madd(sub(goal, peak), bent, peak),
    release = mul(from, sub(splat(1), bent));
  return v128.or(
    v128.and(attack, when(stage, ATTACK)),
    v128.or(v128.and(decay, when(stage, DECAY)), v128.and(release, when(stage, RELEASE))),
  );
}

/** The envelope of one frame; moves it on. */
function envelope(m: P.Module, g: u32, f: u32, state: P.State): v128 {
  const gate = m.gate.at(g, f),
    was = state.gateBefore,
    rises = rising(state.gateBeforeAt, gate);
  const falls = v128.andnot(was, isOn(gate));
  let stage = state.stage,
    position = state.position,
    from = state.from,
    peak = state.peak;
  const sustain = m.sustain.at(g, f);
  const turns = v128.or(rises, v128.and(falls, v128.not(when(stage, IDLE))));
  if (v128.any_true(turns)) {
    from = v128.bitselect(levelAt(stage, unsignedPhase(position), from, peak, sustain), from, turns);
    const velocity = m.velocity.isCabled ? m.velocity.at(g, f) : splat(1);
    peak = v128.bitselect(madd(sub(velocity, splat(1)), m.velocityAmount.at(g, f), splat(1)), peak, rises);
    stage = v128.bitselect(v128.bitselect(i32x4.splat(ATTACK), i32x4.splat(RELEASE), rises), stage, turns);
    position = v128.andnot(position, turns);
  }
  // Segments of no length are passed at once.
  const attackFrames = mul(m.attack.at(g, f), splat(sampleRate));
  const skips = v128.and(
    when(stage, ATTACK),
    v128.and(f32x4.lt(attackFrames, splat(1)), i32x4.eq(position, i32x4.splat(0))),
  );
  stage = v128.bitselect(i32x4.splat(DECAY), stage, skips);
  const level = levelAt(stage, unsignedPhase(position), from, peak, sustain);
  const seconds = v128.or(
    v128.and(when(stage, ATTACK), mul(attackFrames, splat(1 / sampleRate))),
    v128.or(
      v128.and(when(stage, DECAY), m.decay.at(g, f)),
      v128.and(when(stage, RELEASE), m.release.at(g, f)),
    ),
  );
  const step = i32x4.trunc_sat_f32x4_u(
    div(splat(TO_FIXED * EAGER), higher(mul(seconds, splat(sampleRate)), splat(1))),
  );
  const active = v128.not(when(stage, IDLE)),
    next = i32x4.add(position, v128.and(step, active));
  const over = v128.and(active, v128.or(i32x4.lt_u(next, position), i32x4.eq(step, i32x4.splat(-1))));
  const toDecay = v128.and(over, when(stage, ATTACK)),
    holds = v128.and(over, when(stage, DECAY));
  // A decay that is over stands at its end, where the level is the sustain.
  state.position = v128.bitselect(i32x4.splat(-1), v128.andnot(next, over), holds);
  stage = v128.bitselect(i32x4.splat(DECAY), stage, toDecay);
  state.stage = v128.andnot(stage, v128.and(over, when(stage, RELEASE)));
  state.from = from;
  state.peak = peak;
  return level;
}

const TWO_PI: f32 = 6.2831853;

/** The wave at a phase; `increment` in cycles a sample, `corners` how many further ones may be near. */
@inline function wave(shape: i32, phase: v128, increment: v128, corners: i32): v128 {
  const s = signedPhase(phase);
  if (shape == P.SHAPE_SINE) return sineOfCycles(s);
  const limited = limitedIncrement(increment),
    inverse = inverseOf(limited),
    size = f32x4.abs(limited);
  if (shape == P.SHAPE_SAW) return sawAt(s, inverse, corners);
  const opposite = signedPhase(i32x4.add(phase, i32x4.splat(<i32>0x80000000)));
  if (shape == P.SHAPE_PULSE)
    return madd(
      splat(2),
      sub(steps(opposite, inverse, corners), steps(s, inverse, corners)),
      select(splat(-1), splat(1), f32x4.lt(s, splat(0))),
    );
  // Half and full waves turn by one and two slopes of the sine at every zero.
  const turns = add(slopes(s, inverse, corners), slopes(opposite, inverse, corners));
  if (shape == P.SHAPE_HALF) return madd(mul(splat(TWO_PI), size), turns, higher(splat(0), sineOfCycles(s)));
  return madd(mul(splat(2 * TWO_PI), size), turns, f32x4.abs(sineOfCycles(s)));
}

export function process(m: P.Module, frame: u32, frames: u32): void {
  const out = m.outOut,
    env = m.outEnv,
    phaseIn = m.phase;
  const shape = m.shape;
  const pitch = m.pitch;
  let resting = true;
  for (let g: u32 = 0, groups = m.groups; g < groups; ++g) {
    const state = m.state(g);
    const always = !v128.any_true(f32x4.gt(m.envelope.at(g, frame), splat(0.5)));
    // No voice sounds and none will start: silent, and the phase need not run because notes begin it anew.
    if (
      !always &&
      !v128.any_true(state.stage) &&
      m.gate.step(g) == 0 &&
      unmoved(state.gateBeforeAt, m.gate.at(g, frame)) &&
      m.envelope.step(g) == 0
    ) {
      out.fill(g, frame, frames, splat(0));
      env.fill(g, frame, frames, splat(0));
      continue;
    }
    resting = false;
    const row = scratch(FREQUENCIES);
    const steady = frequencyRow(g, frame, frames, row, m.pitch, ZERO, ZERO, m.fine);
    const writes = out.isWanted || env.isWanted;
    let last = state.last,
      before = state.before,
      phaseBefore = state.phaseBefore;
    for (let f: u32 = 0; f < frames; ++f) {
      const at = frame + f;
      const idle = when(state.stage, IDLE),
        level = envelope(m, g, at, state),
        began = v128.andnot(idle, when(state.stage, IDLE));
      const enveloped = f32x4.gt(m.envelope.at(g, at), splat(0.5));
      const gain = v128.bitselect(level, splat(1), enveloped);
      const fixed = f32x4.gt(m.fixed.at(g, at), splat(0.5));
      const tuned = mul(v128.load(steady ? row : row + (f << 4)), m.ratio.at(g, at));
      const hertz = add(v128.bitselect(m.frequency.at(g, at), tuned, fixed), m.hz.at(g, at));
      const renewed = rising(state.resetBeforeAt, m.reset.at(g, at)),
        restarts = v128.or(v128.and(began, enveloped), renewed);
      last = v128.andnot(last, renewed);
      before = v128.andnot(before, renewed);
      const high = v128.andnot(state.high, restarts),
        low = v128.andnot(state.low, restarts);
      const turned = madd(
        mul(m.feedback.at(g, at), splat(0.5 * FEEDBACK_CYCLES)),
        add(last, before),
        phaseIn.at(g, at),
      );
      phaseBefore = v128.bitselect(turned, phaseBefore, renewed);
      const increment = madd(hertz, splat(1 / sampleRate), sub(turned, phaseBefore));
      phaseBefore = turned;
      const phase = i32x4.add(high, fixedCycles(turned));
      let y = splat(0);
      if (shape == P.SHAPE_SINE) y = sineOfCycles(signedPhase(phase));
      else {
        const corners = cornersIn(limitedIncrement(increment));
        if (shape == P.SHAPE_HALF) y = wave(P.SHAPE_HALF, phase, increment, corners);
        else if (shape == P.SHAPE_FULL) y = wave(P.SHAPE_FULL, phase, increment, corners);
        else if (shape == P.SHAPE_PULSE) y = wave(P.SHAPE_PULSE, phase, increment, corners);
        else y = wave(P.SHAPE_SAW, phase, increment, corners);
      }
      before = last;
      // What is fed back is the sine that any shape is made of: an edge in the loop would hunt for its place.
      last = shape == P.SHAPE_SINE ? y : sineOfCycles(signedPhase(phase));
      stepPhase(state.highAt, high, low, hertz);
      if (!writes) continue;
      if (out.isWanted) v128.store(out.write(g, at), mul(mul(y, gain), m.level.at(g, at)));
      if (env.isWanted) v128.store(env.write(g, at), gain);
    }
    state.last = last;
    state.before = before;
    state.phaseBefore = phaseBefore;
  }
  if (resting) m.rest();
}
