// Envelope: a stage and a 32-bit position per lane; the level is a closed form of both, so nothing drifts.
import * as P from "../../../generated/envelope.as";
import { scratch } from "../../../kernels/scratch.as";
import { sampleRate, time } from "../../../kernels/time.as";
import {
  add,
  at,
  COMMON,
  div,
  exp2,
  lane,
  madd,
  mul,
  ONE,
  PER_HALF_CYCLE,
  select,
  splat,
  sub,
} from "../../../kernels/simd.as";

const IDLE = 0,
  DELAY = 1,
  ATTACK = 2,
  HOLD = 3,
  DECAY = 4,
  SUSTAIN = 5,
  RELEASE = 6;
const TO_FIXED: f32 = 4294967296.0;
/** k = 6 curve, in octaves of e: f(x) = (1 - e^-kx) / (1 - e^-k). */
const CURVE_OCTAVES: f32 = 8.65617025;
/** Flatter than this the curve is a straight line to a part in two thousand, and the quotient would lose digits. */
const LEAST_CURVE: f32 = 0.005;
/** Frames between exact values of a curve. */
const ANCHOR: u32 = 32;
/** Rounds segment lengths so that one of exactly n samples ends after n, in 32-bit arithmetic. */
const EAGER: f32 = 1.0000002;
/** No sample passes more than this many segments of no length (a looped envelope may have only such). */
const MOST_STEPS = 8;
const END_SECONDS: f32 = 0.001;

// Vectors of the present segments, refreshed when a stage or a moving parameter changes.
let step: v128 = i32x4.splat(0),
  target: v128 = f32x4.splat(0),
  bend: v128 = f32x4.splat(0),
  norm: v128 = f32x4.splat(0),
  straight: v128 = i32x4.splat(0);


@inline function valueOf(m: P.Module, param: usize, g: u32, frame: u32): v128 {
  return v128.load(m.signal(param).row(g, frame));
}


@inline function when(stages: v128, stage: i32): v128 {
  return i32x4.eq(stages, i32x4.splat(stage));
}

/** Segment lengths of every lane in frames. */
function lengthsOf(m: P.Module, g: u32, frame: u32, stages: v128): v128 {
  let t = v128.and(when(stages, DELAY), valueOf(m, P.PARAM_DELAY, g, frame));
  t = v128.or(t, v128.and(when(stages, ATTACK), valueOf(m, P.PARAM_ATTACK, g, frame)));
  t = v128.or(t, v128.and(when(stages, HOLD), valueOf(m, P.PARAM_HOLD, g, frame)));
  t = v128.or(t, v128.and(when(stages, DECAY), valueOf(m, P.PARAM_DECAY, g, frame)));
  t = v128.or(t, v128.and(when(stages, RELEASE), valueOf(m, P.PARAM_RELEASE, g, frame)));
  return mul(t, splat(sampleRate));
}

function refresh(m: P.Module, g: u32, frame: u32, state: P.State): void {
  const stages = state.stage,
    peak = state.peak;
  const resting = v128.or(when(stages, IDLE), when(stages, SUSTAIN));
  const fixed = div(splat(TO_FIXED * EAGER), lengthsOf(m, g, frame, stages));
  step = v128.andnot(i32x4.trunc_sat_f32x4_u(fixed), resting);
  const sustained = mul(valueOf(m, P.PARAM_SUSTAIN, g, frame), peak);
  const from = select(sustained, state.from, when(stages, SUSTAIN));
  state.from = from;
  const toPeak = v128.or(when(stages, ATTACK), when(stages, HOLD));
  target = select(from, splat(0), v128.or(when(stages, DELAY), when(stages, SUSTAIN)));
  target = select(peak, target, toPeak);
  target = select(sustained, target, when(stages, DECAY));
  let curve = v128.and(when(stages, ATTACK), valueOf(m, P.PARAM_ATTACKCURVE, g, frame));
  curve = v128.or(curve, v128.and(when(stages, DECAY), valueOf(m, P.PARAM_DECAYCURVE, g, frame)));
  curve = v128.or(curve, v128.and(when(stages, RELEASE), valueOf(m, P.PARAM_RELEASECURVE, g, frame)));
  bend = mul(curve, splat(-CURVE_OCTAVES));
  norm = div(splat(1), sub(splat(1), exp2(bend)));
  straight = f32x4.lt(f32x4.abs(bend), splat(LEAST_CURVE));
  anchorChanged(state);
}

/** Frames until the first of the four segments ends, at least 1. */
function framesToEnd(position: v128): u32 {
  v128.store(scratch(6), position);
  v128.store(scratch(6), step, 16);
  let least: u32 = 128;
  for (let k: usize = 0; k < 16; k += 4) {
    const s = load<u32>(scratch(6) + k, 16);
    if (s)
      least = min(least, <u32>min<u64>((<u64>0xffffffff - <u64>load<u32>(scratch(6) + k)) / <u64>s + 1, 128));
  }
  return max(least, 1);
}

/** Takes 2^(bend x) anew, in the lanes of `where`; straight lanes keep x itself. */
function anchor(state: P.State, where: v128): void {
  const x = mul(f32x4.convert_i32x4_s(i32x4.shr_u(state.position, 1)), at(COMMON, PER_HALF_CYCLE));
  state.curveNow = select(select(x, exp2(mul(bend, x)), straight), state.curveNow, where);
}

/** Lanes whose curve or speed changed since they were last anchored are anchored again. */
function anchorChanged(state: P.State): void {
  const changed = v128.or(f32x4.ne(bend, state.bendBefore), i32x4.ne(step, state.stepBefore));
  if (!v128.any_true(changed)) return;
  anchor(state, changed);
  state.bendBefore = bend;
  state.stepBefore = step;
}

/**
 * Writes `frames` levels and moves the positions on; marks the lanes whose position wrapped at the last of them.
 * y = a + b c, where c runs on as c r + d from anchors on absolute multiples of ANCHOR frames (and where something
 * changed): exact to 1e-6 of the span however long the segment, and the same for every block size.
 */
function runSegments(state: P.State, out: usize, frame: u32, frames: u32): void {
  const from = state.from,
    span = sub(target, from),
    s = step;
  const curvedSpan = mul(span, norm);
  const a = select(from, add(from, curvedSpan), straight),
    b = select(span, f32x4.neg(curvedSpan), straight);
  const dx = mul(f32x4.convert_i32x4_s(i32x4.shr_u(s, 1)), at(COMMON, PER_HALF_CYCLE));
  const r = select(at(COMMON, ONE), exp2(mul(bend, dx)), straight),
    d = v128.and(dx, straight);
  let position = state.position,
    before = position,
    c = state.curveNow,
    y = from;
  for (let done: u32 = 0; done < frames;) {
    const absolute = time + frame + done;
    if ((absolute & (ANCHOR - 1)) == 0) {
      state.position = position;
      state.curveNow = c;
      anchor(state, i32x4.splat(-1));
      c = state.curveNow;
    }
    const length = min(frames - done, ANCHOR - (absolute & (ANCHOR - 1)));
    for (let end = out + (length << 4); out < end; out += 16) {
      y = madd(b, c, a);
      v128.store(out, y);
      c = madd(c, r, d);
      before = position;
      position = i32x4.add(position, s);
    }
    done += length;
  }
  state.curveNow = c;
  state.value = y;
  state.position = position;
  state.ended = i32x4.lt_u(position, before);
  state.age = i32x4.add(state.age, i32x4.splat(<i32>frames));
}

/** Writes the end triggers of `frames` and counts them down. */
function countEnds(state: P.State, out: usize, frames: u32): void {
  let left = state.endLeft;
  for (let end = out + (frames << 4); out < end; out += 16) {
    const sounding = i32x4.gt_s(left, i32x4.splat(0));
    v128.store(out, v128.and(sounding, splat(1)));
    left = i32x4.add(left, sounding);
  }
  state.endLeft = left;
}


@inline function param(m: P.Module, p: usize, g: u32, frame: u32, k: u32): f32 {
  return lane(m.signal(p).row(g, frame), k);
}

/** Length in frames of a stage of one lane. */
function lengthOf(m: P.Module, g: u32, frame: u32, k: u32, stage: i32): f32 {
  if (stage == DELAY) return param(m, P.PARAM_DELAY, g, frame, k) * sampleRate;
  if (stage == ATTACK) return param(m, P.PARAM_ATTACK, g, frame, k) * sampleRate;
  if (stage == HOLD) return param(m, P.PARAM_HOLD, g, frame, k) * sampleRate;
  if (stage == DECAY) return param(m, P.PARAM_DECAY, g, frame, k) * sampleRate;
  return param(m, P.PARAM_RELEASE, g, frame, k) * sampleRate;
}

/** Enters a stage, and passes on through stages of no length. `level` is where the envelope stands. */
function enter(
  m: P.Module,
  g: u32,
  frame: u32,
  k: u32,
  state: P.State,
  first: i32,
  start: f32,
  gateOpen: bool,
): void {
  const o = k << 2;
  const peak = load<f32>(state.peakAt + o);
  let stage = first,
    level = start;
  for (let n = 0; n < MOST_STEPS; ++n) {
    if (stage == IDLE || stage == SUSTAIN || lengthOf(m, g, frame, k, stage) >= 0.5) break;
    if (stage == ATTACK || stage == HOLD) level = peak;
    else if (stage == DECAY) level = param(m, P.PARAM_SUSTAIN, g, frame, k) * peak;
    else if (stage == RELEASE) level = 0;
    stage = following(m, g, frame, k, state, stage, gateOpen);
  }
  store<i32>(state.stageAt + o, stage);
  store<u32>(state.positionAt + o, 0);
  store<f32>(state.fromAt + o, stage == IDLE ? 0 : level);
}

/** The stage after `stage`; also starts the end trigger. */
function following(m: P.Module, g: u32, frame: u32, k: u32, state: P.State, stage: i32, gateOpen: bool): i32 {
  if (stage == RELEASE) {
    store<i32>(state.endLeftAt + (k << 2), <i32>(END_SECONDS * sampleRate + 0.5));
    return IDLE;
  }
  if (stage != DECAY) return stage + 1;
  if (param(m, P.PARAM_LOOP, g, frame, k) > 0.5 && gateOpen) {
    store<i32>(state.endLeftAt + (k << 2), <i32>(END_SECONDS * sampleRate + 0.5));
    return ATTACK;
  }
  return gateOpen ? SUSTAIN : RELEASE;
}

/** The level a finished segment ends at. */
function endLevel(m: P.Module, g: u32, frame: u32, k: u32, state: P.State, stage: i32): f32 {
  const peak = load<f32>(state.peakAt + (k << 2));
  if (stage == ATTACK || stage == HOLD) return peak;
  if (stage == DECAY) return param(m, P.PARAM_SUSTAIN, g, frame, k) * peak;
  return stage == RELEASE ? 0 : load<f32>(state.fromAt + (k << 2));
}

/** Handles the lanes whose segment ended or whose gate or trigger moved at this frame. */
function transitions(
  m: P.Module,
  g: u32,
  frame: u32,
  state: P.State,
  ended: v128,
  gate: v128,
  trigger: v128,
): void {
  v128.store(scratch(6), ended);
  v128.store(scratch(6), gate, 16);
  v128.store(scratch(6), trigger, 32);
  const legato = m.retrigger == P.RETRIGGER_LEGATO;
  for (let k: u32 = 0; k < 4; ++k) {
    const o = k << 2;
    const open = load<f32>(scratch(6) + o, 16) > 0.5,
      wasOpen = load<f32>(state.gateBeforeAt + o) > 0.5;
    const hit = load<f32>(scratch(6) + o, 32) > 0.5 && load<f32>(state.triggerBeforeAt + o) <= 0.5;
    const stage = load<i32>(state.stageAt + o);
    const value = load<f32>(state.valueAt + o);
    const age = load<i32>(state.ageAt + o);
    if (open && !wasOpen && legato && stage == RELEASE && age == 1) {
      // The gate dropped for a single sample: carry on where the envelope was.
      store<i32>(state.stageAt + o, load<i32>(state.heldStageAt + o));
      store<u32>(state.positionAt + o, load<u32>(state.heldPositionAt + o));
      store<f32>(state.fromAt + o, load<f32>(state.heldFromAt + o));
    } else if ((open && !wasOpen) || (hit && !(legato && wasOpen))) {
      const amount = param(m, P.PARAM_VELOCITYAMOUNT, g, frame, k);
      const velocity: f32 = m.velocity.isCabled ? param(m, P.IN_VELOCITY, g, frame, k) : 1;
      store<f32>(state.peakAt + o, 1 - amount + amount * velocity);
      store<i32>(state.ageAt + o, 0);
      enter(m, g, frame, k, state, DELAY, value, open);
    } else if (!open && wasOpen && stage != IDLE) {
      store<i32>(state.heldStageAt + o, stage);
      store<u32>(state.heldPositionAt + o, load<u32>(state.positionAt + o));
      store<f32>(state.heldFromAt + o, load<f32>(state.fromAt + o));
      store<i32>(state.ageAt + o, 0);
      enter(m, g, frame, k, state, RELEASE, value, false);
    } else if (load<i32>(scratch(6) + o) != 0) {
      enter(
        m,
        g,
        frame,
        k,
        state,
        following(m, g, frame, k, state, stage, open),
        endLevel(m, g, frame, k, state, stage),
        open,
      );
    }
  }
}


@inline function anyMoves(m: P.Module, g: u32): bool {
  let sum: usize = 0;
  for (let p: usize = P.PARAM_DELAY; p <= P.PARAM_RELEASECURVE; p += 4) sum |= m.signal(p).step(g);
  return sum != 0;
}

/** Runs one group; true when nothing in it moves. */
function processGroup(m: P.Module, g: u32, frame: u32, frames: u32): bool {
  const state = m.state(g);
  const gate = m.gate,
    trigger = m.trigger,
    input = m.in;
  const env = m.outEnv,
    inverse = m.outInverse,
    out = m.outOut,
    end = m.outEnd;
  const moves = anyMoves(m, g);
  const pGate = gate.row(g, frame),
    sGate = gate.step(g),
    pTrigger = trigger.row(g, frame),
    sTrigger = trigger.step(g);
  const levels = scratch(7),
    ends = scratch(8);
  let gateBefore = state.gateBefore,
    triggerBefore = state.triggerBefore;
  const half = splat(0.5);
  refresh(m, g, frame, state);
  // Nothing moves, nothing is about to: one value for the whole segment.
  const still =
    !moves &&
    sGate == 0 &&
    sTrigger == 0 &&
    !v128.any_true(step) &&
    !v128.any_true(state.endLeft) &&
    !v128.any_true(v128.xor(f32x4.gt(v128.load(pGate), half), f32x4.gt(gateBefore, half))) &&
    !v128.any_true(v128.andnot(f32x4.gt(v128.load(pTrigger), half), f32x4.gt(triggerBefore, half)));
  const length: u32 = still ? 1 : frames;
  const calm = !moves && sGate == 0 && sTrigger == 0;
  for (let f: u32 = 0; f < length;) {
    const g0 = v128.load(pGate + f * sGate),
      t0 = v128.load(pTrigger + f * sTrigger);
    const ended = state.ended;
    const edges = v128.or(
      v128.xor(f32x4.gt(g0, half), f32x4.gt(gateBefore, half)),
      v128.andnot(f32x4.gt(t0, half), f32x4.gt(triggerBefore, half)),
    );
    if (v128.any_true(v128.or(ended, edges))) {
      state.gateBefore = gateBefore;
      state.triggerBefore = triggerBefore;
      transitions(m, g, frame + f, state, ended, g0, t0);
      refresh(m, g, frame + f, state);
      anchor(state, i32x4.splat(-1));
    } else if (moves) {
      refresh(m, g, frame + f, state);
    }
    gateBefore = g0;
    triggerBefore = t0;
    // Nothing can happen before the first segment ends: that stretch runs without looking.
    const stretch = calm ? min(length - f, framesToEnd(state.position)) : 1;
    runSegments(state, levels + (f << 4), frame + f, stretch);
    countEnds(state, ends + (f << 4), stretch);
    f += stretch;
  }
  state.gateBefore = gateBefore;
  state.triggerBefore = triggerBefore;
  if (still) {
    const y = v128.load(levels);
    env.fill(g, frame, frames, y);
    inverse.fill(g, frame, frames, sub(splat(1), y));
    end.fill(g, frame, frames, splat(0));
    if (!out.isWanted) return true;
    if (input.isConstant(g) || !v128.any_true(y)) {
      out.fill(g, frame, frames, mul(y, v128.load(input.row(g, frame))));
      return true;
    }
  } else {
    if (env.isWanted) memory.copy(env.write(g, frame), levels, frames << 4);
    if (end.isWanted) memory.copy(end.write(g, frame), ends, frames << 4);
    if (inverse.isWanted) {
      const p = inverse.write(g, frame);
      for (let f: u32 = 0; f < frames; ++f)
        v128.store(p + (f << 4), sub(splat(1), v128.load(levels + (f << 4))));
    }
    if (!out.isWanted) return false;
  }
  let x = input.row(g, frame);
  const xs = input.step(g),
    stride: usize = still ? 0 : 16;
  const p = out.write(g, frame);
  for (let f: u32 = 0; f < frames; ++f) {
    v128.store(p + (f << 4), mul(v128.load(levels + f * stride), v128.load(x)));
    x += xs;
  }
  return false;
}

export function process(m: P.Module, frame: u32, frames: u32): void {
  let resting = true;
  for (let g: u32 = 0, groups = m.groups; g < groups; ++g)
    if (!processGroup(m, g, frame, frames) || !m.settled(g)) resting = false;
  if (resting) m.rest();
}
