/* eslint max-lines: ["error", 500] -- one envelope: its stages, and two groups of lanes side by side */
// Envelope: a stage and a 32-bit position per lane; the level is a closed form of both, so nothing drifts.
import * as P from "../../../generated/envelope.as";
import { scratch } from "../../../kernels/scratch.as";
import { sampleRate, time } from "../../../kernels/time.as";
import { add, at, lane, madd, mul, splat, sub } from "../../../kernels/simd.as";
import {
  ANCHOR,
  ATTACK,
  DECAY,
  DELAY,
  END_SECONDS,
  FIRST,
  HOLD,
  IDLE,
  LEVELS,
  Lanes,
  MOST_STEPS,
  RELEASE,
  SECOND,
  SUSTAIN,
  anchor,
  anchorAt,
  framesToEnd,
  moveOn,
  refresh,
  setWay,
} from "./lanes.as";

/**
 * Writes `frames` levels from the `f`th on. c runs from anchors on absolute multiples of ANCHOR frames (and from where
 * something changed): exact to 1e-6 of the span however long the segment, and the same for every block size.
 */
function runOne(x: Lanes, f: u32, frames: u32): void {
  setWay(x);
  const a = x.a,
    b = x.b,
    r = x.r,
    d = x.d;
  for (let done: u32 = 0, length: u32 = 0; done < frames; done += length) {
    const absolute = time + x.frame + f + done;
    anchorAt(x, absolute);
    length = min(frames - done, ANCHOR - (absolute & (ANCHOR - 1)));
    let c = x.state.curveNow,
      y = a,
      out = <usize>x.levels + ((f + done) << 4);
    for (let end = out + (length << 4); out < end; out += 16) {
      y = madd(b, c, a);
      v128.store(out, y);
      c = madd(c, r, d);
    }
    moveOn(x, c, y, length);
  }
}

/** Two groups at once: each level waits for the one before it, and meanwhile the other group gets on. */
function runTwo(x: Lanes, z: Lanes, f: u32, frames: u32): void {
  setWay(x);
  setWay(z);
  const a = x.a,
    b = x.b,
    r = x.r,
    d = x.d,
    a2 = z.a,
    b2 = z.b,
    r2 = z.r,
    d2 = z.d;
  for (let done: u32 = 0, length: u32 = 0; done < frames; done += length) {
    const absolute = time + x.frame + f + done;
    anchorAt(x, absolute);
    anchorAt(z, absolute);
    length = min(frames - done, ANCHOR - (absolute & (ANCHOR - 1)));
    let c = x.state.curveNow,
      c2 = z.state.curveNow,
      y = a,
      y2 = a2,
      out = <usize>x.levels + ((f + done) << 4),
      out2 = <usize>z.levels + ((f + done) << 4);
    for (let end = out + (length << 4); out < end; out += 16, out2 += 16) {
      y = madd(b, c, a);
      y2 = madd(b2, c2, a2);
      v128.store(out, y);
      v128.store(out2, y2);
      c = madd(c, r, d);
      c2 = madd(c2, r2, d2);
    }
    moveOn(x, c, y, length);
    moveOn(z, c2, y2, length);
  }
}

/** Counts the end triggers of `frames` down, and writes them where anybody reads them. */
function countEnds(x: Lanes, f: u32, frames: u32): void {
  let left = x.state.endLeft;
  if (x.ends)
    for (let out = <usize>x.ends + (f << 4), end = out + (frames << 4); out < end; out += 16) {
      const sounding = i32x4.gt_s(left, i32x4.splat(0));
      v128.store(out, v128.and(sounding, splat(1)));
      left = i32x4.add(left, sounding);
    }
  else left = i32x4.max_s(i32x4.sub(left, i32x4.splat(<i32>frames)), i32x4.splat(0));
  x.state.endLeft = left;
}

// @ts-ignore: decorator
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

/** Finds out what a group has before it in this block. */
function prepare(x: Lanes, m: P.Module, g: u32, frame: u32): void {
  const state = m.state(g),
    half = splat(0.5);
  x.g = g;
  x.frame = frame;
  x.state = state;
  x.gate = m.gate.row(g, frame);
  x.gateStep = m.gate.step(g);
  x.trigger = m.trigger.row(g, frame);
  x.triggerStep = m.trigger.step(g);
  x.moves = anyMoves(m, g);
  refresh(m, x, frame);
  x.still =
    !x.moves &&
    (x.gateStep | x.triggerStep) == 0 &&
    !v128.any_true(v128.or(x.step, state.endLeft)) &&
    !v128.any_true(v128.xor(f32x4.gt(v128.load(x.gate), half), f32x4.gt(state.gateBefore, half))) &&
    !v128.any_true(v128.andnot(f32x4.gt(v128.load(x.trigger), half), f32x4.gt(state.triggerBefore, half)));
  const env = m.outEnv,
    end = m.outEnd;
  x.levels = env.isWanted && !x.still ? env.write(g, frame) : scratch(LEVELS + (g & 1));
  x.ends = end.isWanted && !x.still ? end.write(g, frame) : 0;
}

/** What happens at a frame before its level: ends of segments, edges of gate and trigger. */
// @ts-ignore: decorator
@inline function meet(m: P.Module, x: Lanes, f: u32): void {
  const state = x.state,
    half = splat(0.5);
  const gate = v128.load(x.gate + f * x.gateStep),
    trigger = v128.load(x.trigger + f * x.triggerStep),
    ended = state.ended;
  const edges = v128.or(
    v128.xor(f32x4.gt(gate, half), f32x4.gt(state.gateBefore, half)),
    v128.andnot(f32x4.gt(trigger, half), f32x4.gt(state.triggerBefore, half)),
  );
  if (v128.any_true(v128.or(ended, edges))) {
    transitions(m, x.g, x.frame + f, state, ended, gate, trigger);
    refresh(m, x, x.frame + f);
    anchor(x, i32x4.splat(-1));
  } else if (x.moves) refresh(m, x, x.frame + f);
  state.gateBefore = gate;
  state.triggerBefore = trigger;
}

/** Frames from the `f`th on in which nothing can happen: no segment ends, and no gate or trigger changes sides. */
function stretchOf(x: Lanes, f: u32, most: u32): u32 {
  const end = min(most, framesToEnd(x)),
    half = splat(0.5);
  if ((x.gateStep | x.triggerStep) == 0) return end;
  let gate = <usize>x.gate + f * x.gateStep,
    trigger = <usize>x.trigger + f * x.triggerStep;
  const open = f32x4.gt(v128.load(gate), half),
    hit = f32x4.gt(v128.load(trigger), half);
  for (let n: u32 = 1; n < end; ++n) {
    gate += x.gateStep;
    trigger += x.triggerStep;
    const changed = v128.or(
      v128.xor(f32x4.gt(v128.load(gate), half), open),
      v128.xor(f32x4.gt(v128.load(trigger), half), hit),
    );
    if (v128.any_true(changed)) return n;
  }
  return end;
}

function runAlone(m: P.Module, x: Lanes, frames: u32): void {
  for (let f: u32 = 0, stretch: u32 = 0; f < frames; f += stretch) {
    meet(m, x, f);
    stretch = x.moves ? 1 : stretchOf(x, f, frames - f);
    runOne(x, f, stretch);
    countEnds(x, f, stretch);
  }
}

function runTogether(m: P.Module, x: Lanes, z: Lanes, frames: u32): void {
  for (let f: u32 = 0, stretch: u32 = 0; f < frames; f += stretch) {
    meet(m, x, f);
    meet(m, z, f);
    stretch = min(stretchOf(x, f, frames - f), stretchOf(z, f, frames - f));
    runTwo(x, z, f, stretch);
    countEnds(x, f, stretch);
    countEnds(z, f, stretch);
  }
}

/** Writes the outputs that follow from the levels; true when none of them moves. */
function finish(m: P.Module, x: Lanes, frames: u32): bool {
  const g = x.g,
    frame = x.frame,
    input = m.in,
    inverse = m.outInverse,
    out = m.outOut;
  const levels = <usize>x.levels;
  if (x.still) {
    const y = v128.load(levels);
    m.outEnv.fill(g, frame, frames, y);
    inverse.fill(g, frame, frames, sub(splat(1), y));
    m.outEnd.fill(g, frame, frames, splat(0));
    if (!out.isWanted) return true;
    if (input.isConstant(g) || !v128.any_true(y)) {
      out.fill(g, frame, frames, mul(y, input.at(g, frame)));
      return true;
    }
  } else {
    if (inverse.isWanted) {
      const p = inverse.write(g, frame);
      for (let f: u32 = 0; f < frames; ++f)
        v128.store(p + (f << 4), sub(splat(1), v128.load(levels + (f << 4))));
    }
    if (!out.isWanted) return false;
  }
  let p = input.row(g, frame);
  const step = input.step(g),
    stride: usize = x.still ? 0 : 16,
    to = out.write(g, frame);
  for (let f: u32 = 0; f < frames; ++f) {
    v128.store(to + (f << 4), mul(v128.load(levels + f * stride), v128.load(p)));
    p += step;
  }
  return false;
}

export function process(m: P.Module, frame: u32, frames: u32): void {
  let resting = true;
  for (let g: u32 = 0, groups = m.groups; g < groups; g += 2) {
    const two = g + 1 < groups;
    prepare(FIRST, m, g, frame);
    if (two) prepare(SECOND, m, g + 1, frame);
    if (two && !(FIRST.moves || SECOND.moves || FIRST.still || SECOND.still))
      runTogether(m, FIRST, SECOND, frames);
    else {
      runAlone(m, FIRST, FIRST.still ? 1 : frames);
      if (two) runAlone(m, SECOND, SECOND.still ? 1 : frames);
    }
    if (!finish(m, FIRST, frames) || !m.settled(g)) resting = false;
    if (two && (!finish(m, SECOND, frames) || !m.settled(g + 1))) resting = false;
  }
  if (resting) m.rest();
}
