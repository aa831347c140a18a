import * as P from "../../../generated/operator.as";
import {
  choiceOf,
  groupsOf,
  isCabled,
  isWanted,
  peek,
  read,
  rest,
  sampleRate,
  scratch,
  signalAt,
  stateOf,
  strideOf,
  writeConstant,
  writeTo,
} from "../../../kernels/instance.as";
import { curveOf } from "../../../kernels/curves.as";
import { cornersIn, inverseOf, limitedIncrement, sawAt, slopes, steps } from "../../../kernels/corners.as";
import { isOn, rising, unmoved } from "../../../kernels/edges.as";
import {
  fixedCycles,
  frequencyRow,
  signedPhase,
  stepPhase,
  tuningSlots,
  unsignedPhase,
} from "../../../kernels/phase.as";
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

// @ts-ignore: decorator
@inline function when(stage: v128, kind: i32): v128 {
  return i32x4.eq(stage, i32x4.splat(kind));
}

// @ts-ignore: decorator
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

/** The envelope of one frame; moves it on. Lanes that start from silence are left in `began`. */
let began: v128 = i32x4.splat(0);
function envelope(instance: usize, g: u32, f: u32, state: usize): v128 {
  const gate = read(instance, P.IN_GATE, g, f),
    was = v128.load(state + P.STATE_GATEBEFORE),
    rises = rising(state + P.STATE_GATEBEFORE, gate);
  const falls = v128.andnot(was, isOn(gate));
  let stage = v128.load(state + P.STATE_STAGE),
    position = v128.load(state + P.STATE_POSITION),
    from = v128.load(state + P.STATE_FROM),
    peak = v128.load(state + P.STATE_PEAK);
  const sustain = read(instance, P.PARAM_SUSTAIN, g, f);
  began = v128.and(rises, when(stage, IDLE));
  const turns = v128.or(rises, v128.and(falls, v128.not(when(stage, IDLE))));
  if (v128.any_true(turns)) {
    from = v128.bitselect(levelAt(stage, unsignedPhase(position), from, peak, sustain), from, turns);
    const velocity = isCabled(signalAt(instance, P.IN_VELOCITY))
      ? read(instance, P.IN_VELOCITY, g, f)
      : splat(1);
    peak = v128.bitselect(
      madd(sub(velocity, splat(1)), read(instance, P.PARAM_VELOCITYAMOUNT, g, f), splat(1)),
      peak,
      rises,
    );
    stage = v128.bitselect(v128.bitselect(i32x4.splat(ATTACK), i32x4.splat(RELEASE), rises), stage, turns);
    position = v128.andnot(position, turns);
  }
  // Segments of no length are passed at once.
  const attackFrames = mul(read(instance, P.PARAM_ATTACK, g, f), splat(sampleRate));
  const skips = v128.and(
    when(stage, ATTACK),
    v128.and(f32x4.lt(attackFrames, splat(1)), i32x4.eq(position, i32x4.splat(0))),
  );
  stage = v128.bitselect(i32x4.splat(DECAY), stage, skips);
  const level = levelAt(stage, unsignedPhase(position), from, peak, sustain);
  const seconds = v128.or(
    v128.and(when(stage, ATTACK), mul(attackFrames, splat(1 / sampleRate))),
    v128.or(
      v128.and(when(stage, DECAY), read(instance, P.PARAM_DECAY, g, f)),
      v128.and(when(stage, RELEASE), read(instance, P.PARAM_RELEASE, g, f)),
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
  v128.store(state + P.STATE_POSITION, v128.bitselect(i32x4.splat(-1), v128.andnot(next, over), holds));
  stage = v128.bitselect(i32x4.splat(DECAY), stage, toDecay);
  v128.store(state + P.STATE_STAGE, v128.andnot(stage, v128.and(over, when(stage, RELEASE))));
  v128.store(state + P.STATE_FROM, from);
  v128.store(state + P.STATE_PEAK, peak);
  return level;
}

const TWO_PI: f32 = 6.2831853;

/** The wave at a phase; `increment` in cycles a sample, `corners` how many further ones may be near. */
// @ts-ignore: decorator
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

export function process(instance: usize, frame: u32, frames: u32): void {
  const out = signalAt(instance, P.OUT_OUT),
    env = signalAt(instance, P.OUT_ENV),
    phaseIn = signalAt(instance, P.IN_PHASE);
  const shape = choiceOf(instance, P.SET_SHAPE);
  const pitch = signalAt(instance, P.IN_PITCH);
  let resting = true;
  for (let g: u32 = 0, groups = groupsOf(instance); g < groups; ++g) {
    const state = stateOf(instance, g);
    const always = !v128.any_true(f32x4.gt(peek(signalAt(instance, P.PARAM_ENVELOPE), g, frame), splat(0.5)));
    // No voice sounds and none will start: silent, and the phase need not run because notes begin it anew.
    if (
      !always &&
      !v128.any_true(v128.load(state + P.STATE_STAGE)) &&
      strideOf(signalAt(instance, P.IN_GATE), g) == 0 &&
      unmoved(state + P.STATE_GATEBEFORE, read(instance, P.IN_GATE, g, frame)) &&
      strideOf(signalAt(instance, P.PARAM_ENVELOPE), g) == 0
    ) {
      writeConstant(out, g, frame, frames, splat(0));
      writeConstant(env, g, frame, frames, splat(0));
      continue;
    }
    resting = false;
    const row = scratch(FREQUENCIES);
    tuningSlots(P.IN_PITCH, 0, 0, 0, 0, 0, P.PARAM_FINE);
    const steady = frequencyRow(instance, g, frame, frames, row);
    const writes = isWanted(out) || isWanted(env);
    let last = v128.load(state + P.STATE_LAST),
      before = v128.load(state + P.STATE_BEFORE),
      phaseBefore = v128.load(state + P.STATE_PHASEBEFORE);
    for (let f: u32 = 0; f < frames; ++f) {
      const at = frame + f;
      const level = envelope(instance, g, at, state);
      const enveloped = f32x4.gt(read(instance, P.PARAM_ENVELOPE, g, at), splat(0.5));
      const gain = v128.bitselect(level, splat(1), enveloped);
      const fixed = f32x4.gt(read(instance, P.PARAM_FIXED, g, at), splat(0.5));
      const tuned = mul(v128.load(steady ? row : row + (f << 4)), read(instance, P.PARAM_RATIO, g, at));
      const hertz = add(
        v128.bitselect(read(instance, P.PARAM_FREQUENCY, g, at), tuned, fixed),
        read(instance, P.IN_HZ, g, at),
      );
      const renewed = rising(state + P.STATE_RESETBEFORE, read(instance, P.IN_RESET, g, at)),
        restarts = v128.or(v128.and(began, enveloped), renewed);
      last = v128.andnot(last, renewed);
      before = v128.andnot(before, renewed);
      const high = v128.andnot(v128.load(state + P.STATE_HIGH), restarts),
        low = v128.andnot(v128.load(state + P.STATE_LOW), restarts);
      const turned = madd(
        mul(read(instance, P.PARAM_FEEDBACK, g, at), splat(0.5 * FEEDBACK_CYCLES)),
        add(last, before),
        peek(phaseIn, g, at),
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
      stepPhase(state + P.STATE_HIGH, high, low, hertz);
      if (!writes) continue;
      if (isWanted(out))
        v128.store(writeTo(out, g, at), mul(mul(y, gain), read(instance, P.PARAM_LEVEL, g, at)));
      if (isWanted(env)) v128.store(writeTo(env, g, at), gain);
    }
    v128.store(state + P.STATE_LAST, last);
    v128.store(state + P.STATE_BEFORE, before);
    v128.store(state + P.STATE_PHASEBEFORE, phaseBefore);
  }
  if (resting) rest(instance);
}
