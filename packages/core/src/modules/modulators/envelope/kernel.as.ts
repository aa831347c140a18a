// Envelope: a stage and a 32-bit position per lane; the level is a closed form of both, so nothing drifts.
import * as P from "../../../generated/envelope.as";
import {
  choiceOf,
  groupsOf,
  isCabled,
  isConstant,
  isWanted,
  pointerTo,
  rest,
  sampleRate,
  scratch,
  settled,
  signalAt,
  stateOf,
  strideOf,
  time,
  writeConstant,
  writeTo,
} from "../../../kernels/instance.as";
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

// @ts-ignore: decorator
@inline function valueOf(instance: usize, param: usize, g: u32, frame: u32): v128 {
  return v128.load(pointerTo(signalAt(instance, param), g, frame));
}
// @ts-ignore: decorator
@inline function when(stages: v128, stage: i32): v128 {
  return i32x4.eq(stages, i32x4.splat(stage));
}

/** Segment lengths of every lane in frames. */
function lengthsOf(instance: usize, g: u32, frame: u32, stages: v128): v128 {
  let t = v128.and(when(stages, DELAY), valueOf(instance, P.PARAM_DELAY, g, frame));
  t = v128.or(t, v128.and(when(stages, ATTACK), valueOf(instance, P.PARAM_ATTACK, g, frame)));
  t = v128.or(t, v128.and(when(stages, HOLD), valueOf(instance, P.PARAM_HOLD, g, frame)));
  t = v128.or(t, v128.and(when(stages, DECAY), valueOf(instance, P.PARAM_DECAY, g, frame)));
  t = v128.or(t, v128.and(when(stages, RELEASE), valueOf(instance, P.PARAM_RELEASE, g, frame)));
  return mul(t, splat(sampleRate));
}

function refresh(instance: usize, g: u32, frame: u32, state: usize): void {
  const stages = v128.load(state + P.STATE_STAGE),
    peak = v128.load(state + P.STATE_PEAK);
  const resting = v128.or(when(stages, IDLE), when(stages, SUSTAIN));
  const fixed = div(splat(TO_FIXED * EAGER), lengthsOf(instance, g, frame, stages));
  step = v128.andnot(i32x4.trunc_sat_f32x4_u(fixed), resting);
  const sustained = mul(valueOf(instance, P.PARAM_SUSTAIN, g, frame), peak);
  const from = select(sustained, v128.load(state + P.STATE_FROM), when(stages, SUSTAIN));
  v128.store(state + P.STATE_FROM, from);
  const toPeak = v128.or(when(stages, ATTACK), when(stages, HOLD));
  target = select(from, splat(0), v128.or(when(stages, DELAY), when(stages, SUSTAIN)));
  target = select(peak, target, toPeak);
  target = select(sustained, target, when(stages, DECAY));
  let curve = v128.and(when(stages, ATTACK), valueOf(instance, P.PARAM_ATTACKCURVE, g, frame));
  curve = v128.or(curve, v128.and(when(stages, DECAY), valueOf(instance, P.PARAM_DECAYCURVE, g, frame)));
  curve = v128.or(curve, v128.and(when(stages, RELEASE), valueOf(instance, P.PARAM_RELEASECURVE, g, frame)));
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
function anchor(state: usize, where: v128): void {
  const x = mul(
    f32x4.convert_i32x4_s(i32x4.shr_u(v128.load(state + P.STATE_POSITION), 1)),
    at(COMMON, PER_HALF_CYCLE),
  );
  v128.store(
    state + P.STATE_CURVENOW,
    select(select(x, exp2(mul(bend, x)), straight), v128.load(state + P.STATE_CURVENOW), where),
  );
}

/** Lanes whose curve or speed changed since they were last anchored are anchored again. */
function anchorChanged(state: usize): void {
  const changed = v128.or(
    f32x4.ne(bend, v128.load(state + P.STATE_BENDBEFORE)),
    i32x4.ne(step, v128.load(state + P.STATE_STEPBEFORE)),
  );
  if (!v128.any_true(changed)) return;
  anchor(state, changed);
  v128.store(state + P.STATE_BENDBEFORE, bend);
  v128.store(state + P.STATE_STEPBEFORE, step);
}

/**
 * Writes `frames` levels and moves the positions on; marks the lanes whose position wrapped at the last of them.
 * y = a + b c, where c runs on as c r + d from anchors on absolute multiples of ANCHOR frames (and where something
 * changed): exact to 1e-6 of the span however long the segment, and the same for every block size.
 */
function runSegments(state: usize, out: usize, frame: u32, frames: u32): void {
  const from = v128.load(state + P.STATE_FROM),
    span = sub(target, from),
    s = step;
  const curvedSpan = mul(span, norm);
  const a = select(from, add(from, curvedSpan), straight),
    b = select(span, f32x4.neg(curvedSpan), straight);
  const dx = mul(f32x4.convert_i32x4_s(i32x4.shr_u(s, 1)), at(COMMON, PER_HALF_CYCLE));
  const r = select(at(COMMON, ONE), exp2(mul(bend, dx)), straight),
    d = v128.and(dx, straight);
  let position = v128.load(state + P.STATE_POSITION),
    before = position,
    c = v128.load(state + P.STATE_CURVENOW),
    y = from;
  for (let done: u32 = 0; done < frames;) {
    const absolute = time + frame + done;
    if ((absolute & (ANCHOR - 1)) == 0) {
      v128.store(state + P.STATE_POSITION, position);
      v128.store(state + P.STATE_CURVENOW, c);
      anchor(state, i32x4.splat(-1));
      c = v128.load(state + P.STATE_CURVENOW);
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
  v128.store(state + P.STATE_CURVENOW, c);
  v128.store(state + P.STATE_VALUE, y);
  v128.store(state + P.STATE_POSITION, position);
  v128.store(state + P.STATE_ENDED, i32x4.lt_u(position, before));
  v128.store(state + P.STATE_AGE, i32x4.add(v128.load(state + P.STATE_AGE), i32x4.splat(<i32>frames)));
}

/** Writes the end triggers of `frames` and counts them down. */
function countEnds(state: usize, out: usize, frames: u32): void {
  let left = v128.load(state + P.STATE_ENDLEFT);
  for (let end = out + (frames << 4); out < end; out += 16) {
    const sounding = i32x4.gt_s(left, i32x4.splat(0));
    v128.store(out, v128.and(sounding, splat(1)));
    left = i32x4.add(left, sounding);
  }
  v128.store(state + P.STATE_ENDLEFT, left);
}

// @ts-ignore: decorator
@inline function param(instance: usize, p: usize, g: u32, frame: u32, k: u32): f32 {
  return lane(pointerTo(signalAt(instance, p), g, frame), k);
}

/** Length in frames of a stage of one lane. */
function lengthOf(instance: usize, g: u32, frame: u32, k: u32, stage: i32): f32 {
  if (stage == DELAY) return param(instance, P.PARAM_DELAY, g, frame, k) * sampleRate;
  if (stage == ATTACK) return param(instance, P.PARAM_ATTACK, g, frame, k) * sampleRate;
  if (stage == HOLD) return param(instance, P.PARAM_HOLD, g, frame, k) * sampleRate;
  if (stage == DECAY) return param(instance, P.PARAM_DECAY, g, frame, k) * sampleRate;
  return param(instance, P.PARAM_RELEASE, g, frame, k) * sampleRate;
}

/** Enters a stage, and passes on through stages of no length. `level` is where the envelope stands. */
function enter(
  instance: usize,
  g: u32,
  frame: u32,
  k: u32,
  state: usize,
  first: i32,
  start: f32,
  gateOpen: bool,
): void {
  const o = k << 2;
  const peak = load<f32>(state + P.STATE_PEAK + o);
  let stage = first,
    level = start;
  for (let n = 0; n < MOST_STEPS; ++n) {
    if (stage == IDLE || stage == SUSTAIN || lengthOf(instance, g, frame, k, stage) >= 0.5) break;
    if (stage == ATTACK || stage == HOLD) level = peak;
    else if (stage == DECAY) level = param(instance, P.PARAM_SUSTAIN, g, frame, k) * peak;
    else if (stage == RELEASE) level = 0;
    stage = following(instance, g, frame, k, state, stage, gateOpen);
  }
  store<i32>(state + P.STATE_STAGE + o, stage);
  store<u32>(state + P.STATE_POSITION + o, 0);
  store<f32>(state + P.STATE_FROM + o, stage == IDLE ? 0 : level);
}

/** The stage after `stage`; also starts the end trigger. */
function following(
  instance: usize,
  g: u32,
  frame: u32,
  k: u32,
  state: usize,
  stage: i32,
  gateOpen: bool,
): i32 {
  if (stage == RELEASE) {
    store<i32>(state + P.STATE_ENDLEFT + (k << 2), <i32>(END_SECONDS * sampleRate + 0.5));
    return IDLE;
  }
  if (stage != DECAY) return stage + 1;
  if (param(instance, P.PARAM_LOOP, g, frame, k) > 0.5 && gateOpen) {
    store<i32>(state + P.STATE_ENDLEFT + (k << 2), <i32>(END_SECONDS * sampleRate + 0.5));
    return ATTACK;
  }
  return gateOpen ? SUSTAIN : RELEASE;
}

/** The level a finished segment ends at. */
function endLevel(instance: usize, g: u32, frame: u32, k: u32, state: usize, stage: i32): f32 {
  const peak = load<f32>(state + P.STATE_PEAK + (k << 2));
  if (stage == ATTACK || stage == HOLD) return peak;
  if (stage == DECAY) return param(instance, P.PARAM_SUSTAIN, g, frame, k) * peak;
  return stage == RELEASE ? 0 : load<f32>(state + P.STATE_FROM + (k << 2));
}

/** Handles the lanes whose segment ended or whose gate or trigger moved at this frame. */
function transitions(
  instance: usize,
  g: u32,
  frame: u32,
  state: usize,
  ended: v128,
  gate: v128,
  trigger: v128,
): void {
  v128.store(scratch(6), ended);
  v128.store(scratch(6), gate, 16);
  v128.store(scratch(6), trigger, 32);
  const legato = choiceOf(instance, P.SET_RETRIGGER) == P.RETRIGGER_LEGATO;
  for (let k: u32 = 0; k < 4; ++k) {
    const o = k << 2;
    const open = load<f32>(scratch(6) + o, 16) > 0.5,
      wasOpen = load<f32>(state + P.STATE_GATEBEFORE + o) > 0.5;
    const hit = load<f32>(scratch(6) + o, 32) > 0.5 && load<f32>(state + P.STATE_TRIGGERBEFORE + o) <= 0.5;
    const stage = load<i32>(state + P.STATE_STAGE + o);
    const value = load<f32>(state + P.STATE_VALUE + o);
    const age = load<i32>(state + P.STATE_AGE + o);
    if (open && !wasOpen && legato && stage == RELEASE && age == 1) {
      // The gate dropped for a single sample: carry on where the envelope was.
      store<i32>(state + P.STATE_STAGE + o, load<i32>(state + P.STATE_HELDSTAGE + o));
      store<u32>(state + P.STATE_POSITION + o, load<u32>(state + P.STATE_HELDPOSITION + o));
      store<f32>(state + P.STATE_FROM + o, load<f32>(state + P.STATE_HELDFROM + o));
    } else if ((open && !wasOpen) || (hit && !(legato && wasOpen))) {
      const amount = param(instance, P.PARAM_VELOCITYAMOUNT, g, frame, k);
      const velocity: f32 = isCabled(signalAt(instance, P.IN_VELOCITY))
        ? param(instance, P.IN_VELOCITY, g, frame, k)
        : 1;
      store<f32>(state + P.STATE_PEAK + o, 1 - amount + amount * velocity);
      store<i32>(state + P.STATE_AGE + o, 0);
      enter(instance, g, frame, k, state, DELAY, value, open);
    } else if (!open && wasOpen && stage != IDLE) {
      store<i32>(state + P.STATE_HELDSTAGE + o, stage);
      store<u32>(state + P.STATE_HELDPOSITION + o, load<u32>(state + P.STATE_POSITION + o));
      store<f32>(state + P.STATE_HELDFROM + o, load<f32>(state + P.STATE_FROM + o));
      store<i32>(state + P.STATE_AGE + o, 0);
      enter(instance, g, frame, k, state, RELEASE, value, false);
    } else if (load<i32>(scratch(6) + o) != 0) {
      enter(
        instance,
        g,
        frame,
        k,
        state,
        following(instance, g, frame, k, state, stage, open),
        endLevel(instance, g, frame, k, state, stage),
        open,
      );
    }
  }
}

// @ts-ignore: decorator
@inline function anyMoves(instance: usize, g: u32): bool {
  let sum: usize = 0;
  for (let p: usize = P.PARAM_DELAY; p <= P.PARAM_RELEASECURVE; p += 4)
    sum |= strideOf(signalAt(instance, p), g);
  return sum != 0;
}

/** Runs one group; true when nothing in it moves. */
function processGroup(instance: usize, g: u32, frame: u32, frames: u32): bool {
  const state = stateOf(instance, g);
  const gate = signalAt(instance, P.IN_GATE),
    trigger = signalAt(instance, P.IN_TRIGGER),
    input = signalAt(instance, P.IN_IN);
  const env = signalAt(instance, P.OUT_ENV),
    inverse = signalAt(instance, P.OUT_INVERSE),
    out = signalAt(instance, P.OUT_OUT),
    end = signalAt(instance, P.OUT_END);
  const moves = anyMoves(instance, g);
  const pGate = pointerTo(gate, g, frame),
    sGate = strideOf(gate, g),
    pTrigger = pointerTo(trigger, g, frame),
    sTrigger = strideOf(trigger, g);
  const levels = scratch(7),
    ends = scratch(8);
  let gateBefore = v128.load(state + P.STATE_GATEBEFORE),
    triggerBefore = v128.load(state + P.STATE_TRIGGERBEFORE);
  const half = splat(0.5);
  refresh(instance, g, frame, state);
  // Nothing moves, nothing is about to: one value for the whole segment.
  const still =
    !moves &&
    sGate == 0 &&
    sTrigger == 0 &&
    !v128.any_true(step) &&
    !v128.any_true(v128.load(state + P.STATE_ENDLEFT)) &&
    !v128.any_true(v128.xor(f32x4.gt(v128.load(pGate), half), f32x4.gt(gateBefore, half))) &&
    !v128.any_true(v128.andnot(f32x4.gt(v128.load(pTrigger), half), f32x4.gt(triggerBefore, half)));
  const length: u32 = still ? 1 : frames;
  const calm = !moves && sGate == 0 && sTrigger == 0;
  for (let f: u32 = 0; f < length;) {
    const g0 = v128.load(pGate + f * sGate),
      t0 = v128.load(pTrigger + f * sTrigger);
    const ended = v128.load(state + P.STATE_ENDED);
    const edges = v128.or(
      v128.xor(f32x4.gt(g0, half), f32x4.gt(gateBefore, half)),
      v128.andnot(f32x4.gt(t0, half), f32x4.gt(triggerBefore, half)),
    );
    if (v128.any_true(v128.or(ended, edges))) {
      v128.store(state + P.STATE_GATEBEFORE, gateBefore);
      v128.store(state + P.STATE_TRIGGERBEFORE, triggerBefore);
      transitions(instance, g, frame + f, state, ended, g0, t0);
      refresh(instance, g, frame + f, state);
      anchor(state, i32x4.splat(-1));
    } else if (moves) {
      refresh(instance, g, frame + f, state);
    }
    gateBefore = g0;
    triggerBefore = t0;
    // Nothing can happen before the first segment ends: that stretch runs without looking.
    const stretch = calm ? min(length - f, framesToEnd(v128.load(state + P.STATE_POSITION))) : 1;
    runSegments(state, levels + (f << 4), frame + f, stretch);
    countEnds(state, ends + (f << 4), stretch);
    f += stretch;
  }
  v128.store(state + P.STATE_GATEBEFORE, gateBefore);
  v128.store(state + P.STATE_TRIGGERBEFORE, triggerBefore);
  if (still) {
    const y = v128.load(levels);
    writeConstant(env, g, frame, frames, y);
    writeConstant(inverse, g, frame, frames, sub(splat(1), y));
    writeConstant(end, g, frame, frames, splat(0));
    if (!isWanted(out)) return true;
    if (isConstant(input, g) || !v128.any_true(y)) {
      writeConstant(out, g, frame, frames, mul(y, v128.load(pointerTo(input, g, frame))));
      return true;
    }
  } else {
    if (isWanted(env)) memory.copy(writeTo(env, g, frame), levels, frames << 4);
    if (isWanted(end)) memory.copy(writeTo(end, g, frame), ends, frames << 4);
    if (isWanted(inverse)) {
      const p = writeTo(inverse, g, frame);
      for (let f: u32 = 0; f < frames; ++f)
        v128.store(p + (f << 4), sub(splat(1), v128.load(levels + (f << 4))));
    }
    if (!isWanted(out)) return false;
  }
  let x = pointerTo(input, g, frame);
  const xs = strideOf(input, g),
    stride: usize = still ? 0 : 16;
  const p = writeTo(out, g, frame);
  for (let f: u32 = 0; f < frames; ++f) {
    v128.store(p + (f << 4), mul(v128.load(levels + f * stride), v128.load(x)));
    x += xs;
  }
  return false;
}

export function process(instance: usize, frame: u32, frames: u32): void {
  let resting = true;
  for (let g: u32 = 0, groups = groupsOf(instance); g < groups; ++g)
    if (!processGroup(instance, g, frame, frames) || !settled(instance, g)) resting = false;
  if (resting) rest(instance);
}
