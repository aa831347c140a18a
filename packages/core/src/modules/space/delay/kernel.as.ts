// Delay: one ring for both sides. What is read goes through the loop's filters and drive, out, and back into the ring,
// crossed where it plays ping-pong. Times change by the law of a tape (a critically damped way, so that the pitch never
// steps) or by a fade between two places of the ring.
import * as P from "../../../generated/delay.as";
import { beatsPerFrame, framePeriod, sampleRate, time } from "../../../kernels/time.as";
import { maskOf, readSides, SLACK, slotOf } from "../../../kernels/delays.as";
import { endedBelow, linked, paceOver } from "../../../kernels/detectors.as";
import { isOn, rising } from "../../../kernels/edges.as";
import { tangentOfShare } from "../../../kernels/filters.as";
import { softLimit } from "../../../kernels/limits.as";
import { beatsOfNoteValue } from "../../../kernels/notevalues.as";
import { bendOf, driven } from "./drive.as";
import { lowPass } from "../../../kernels/onepole.as";
import { signedPhase, stepPhase } from "../../../kernels/phase.as";
import { catchUp, notePassed } from "../../../kernels/slumber.as";
import { stepTo } from "../../../kernels/sweep.as";
import {
  add,
  clamp,
  div,
  exp2,
  higher,
  lower,
  madd,
  mixed,
  mul,
  select,
  sineOfCycles,
  splat,
  sub,
} from "../../../kernels/simd.as";

const LONGEST_SECONDS: f64 = 5;
/** What is driven comes so many frames late, and is read so much sooner; from this bend on wholly. */
const LEAD: f32 = 3,
  WHOLLY: f32 = 32;
/** A critically damped way has 2 % left after so many of its time constants. */
const SETTLED: f32 = 5.834;
const LOG2E: f32 = 1.44269504;
/** What goes round is bent above 0 dBFS and never reaches twice that. */
const KNEE: f32 = 2,
  RANGE: f32 = 2;
/** A fade is never so short that it clicks. */
const LEAST_FADE_MS: f32 = 3;
const HOLD_SECONDS: f32 = 0.005,
  CROSS_SECONDS: f32 = 0.02,
  CLEAR_SECONDS: f32 = 0.005;
/** Motion: so far at most, and never by more of the time than this. */
const MOTION_SECONDS: f32 = 0.004,
  MOTION_SHARE: f32 = 0.3;
const DUCK_UP: f32 = 0.005,
  DUCK_DOWN: f32 = 0.2,
  DUCK_LEVEL: f32 = 0.25;
/** Softer than this counts as silence once nothing comes in. */
const SILENCE: f32 = 1e-6;
/** Cuts are out of circuit at their ends. */
const LOWEST: f32 = 20,
  HIGHEST: f32 = 20000;

/** Right lanes. */
@inline function rights(): v128 {
  return i32x4(0, -1, 0, -1);
}


@inline function crossed(x: v128): v128 {
  return v128.shuffle<i32>(x, x, 1, 0, 3, 2);
}

/** Blend of a and b that is b itself at 1. */
@inline function towards(a: v128, b: v128, share: v128): v128 {
  return select(b, madd(share, sub(b, a), a), f32x4.ge(share, splat(1)));
}

/** Frames of a note value at the transport's tempo, halved until they fit. */
function noteFrames(index: i32): f32 {
  let frames = beatsOfNoteValue(index) / max(beatsPerFrame, 1e-9);
  while (frames > LONGEST_SECONDS * <f64>sampleRate) frames *= 0.5;
  return <f32>max(frames, 1);
}

/** One frame on by the law of a tape: how far the delay is from its goal, and how fast it goes there. */
@inline function tapeStep(state: P.State, goal: v128, smoothing: v128): v128 {
  const isAway = v128.or(v128.or(state.apartBy, state.speed), f32x4.ne(goal, state.goal));
  if (!v128.any_true(isAway)) return goal;
  const frames = mul(smoothing, splat(sampleRate / 1000));
  const isMoving = f32x4.gt(frames, splat(1));
  const pace = div(splat(SETTLED), higher(frames, splat(1))),
    keep = exp2(mul(pace, splat(-LOG2E)));
  const apart = sub(state.apartBy, sub(goal, state.goal)),
    speed = state.speed;
  const drawn = madd(pace, apart, speed);
  const next = mul(add(apart, drawn), keep),
    nextSpeed = mul(sub(speed, mul(pace, drawn)), keep);
  const isThere = v128.and(
    f32x4.lt(f32x4.abs(next), splat(1e-3)),
    f32x4.lt(f32x4.abs(nextSpeed), splat(1e-5)),
  );
  const stays = v128.andnot(isMoving, isThere);
  state.apartBy = v128.and(next, stays);
  state.speed = v128.and(nextSpeed, stays);
  state.goal = goal;
  return add(goal, state.apartBy);
}

/** One frame on by the law of a fade: `fadeFrom`, `fadeTo` and how far between them. */
@inline function fadeStep(state: P.State, goal: v128, smoothing: v128): void {
  const isDone = f32x4.ge(state.faded, splat(1));
  const from = select(state.fadeTo, state.fadeFrom, isDone);
  const begins = v128.and(isDone, f32x4.gt(f32x4.abs(sub(goal, from)), splat(0.01)));
  state.fadeFrom = from;
  state.fadeTo = select(goal, state.fadeTo, begins);
  const step = div(splat(1000 / sampleRate), higher(smoothing, splat(LEAST_FADE_MS)));
  state.faded = lower(add(v128.andnot(state.faded, begins), step), splat(1));
}

/** A place of the ring; what stood there before it was cleared fades out, what came after fades in. */
@inline function readAt(state: P.State, isPair: bool, ring: usize, mask: u32, now: u32, delay: v128): v128 {
  const at = clamp(delay, splat(1), splat(<f32>(mask - SLACK)));
  const y = readSides(isPair, ring, mask, now, at);
  if (!v128.any_true(state.isCleared)) return y;
  const since = i32x4.sub(i32x4.splat(<i32>now), state.clearedAt);
  const step = splat(1 / (CLEAR_SECONDS * sampleRate));
  const gone = f32x4.convert_i32x4_s(since),
    written = sub(gone, at);
  const old = higher(sub(splat(1), mul(gone, step)), splat(0)),
    fresh = clamp(mul(written, step), splat(0), splat(1));
  const gain = select(fresh, old, f32x4.ge(written, splat(0)));
  return select(mul(y, gain), y, state.isCleared);
}


@inline function clearing(state: P.State, gate: v128, now: u32, mask: u32): void {
  const rises = rising(state.clearBeforeAt, gate);
  state.clearedAt = v128.bitselect(i32x4.splat(<i32>now), state.clearedAt, rises);
  const isPast = i32x4.gt_s(i32x4.sub(i32x4.splat(<i32>now), state.clearedAt), i32x4.splat(<i32>mask));
  state.isCleared = v128.or(v128.andnot(state.isCleared, isPast), rises);
}

/** Coefficient of a low-pass of one pole: g / (1 + g). */
@inline function onePoleShare(u: v128): v128 {
  const g = tangentOfShare(u);
  return div(g, add(splat(1), g));
}

export function process(m: P.Module, frame: u32, frames: u32): void {
  const input = m.in,
    isTape = m.change == P.CHANGE_TAPE;
  const bytes = m.auxBytes / m.groups,
    mask = maskOf(bytes),
    perMs = splat(sampleRate / 1000),
    share = splat(<f32>framePeriod),
    holdStep: f32 = 1 / (HOLD_SECONDS * sampleRate),
    crossStep: f32 = 1 / (CROSS_SECONDS * sampleRate),
    up = paceOver(DUCK_UP, sampleRate),
    down = paceOver(DUCK_DOWN, sampleRate);
  const leftNote = noteFrames(m.leftNote),
    rightNote = noteFrames(m.rightNote);
  const isPair = m.voiceCount * m.sideCount <= 2;
  let resting = true;
  for (let g: u32 = 0, groups = m.groups; g < groups; ++g) {
    const state = m.state(g),
      ring = m.aux + <usize>g * bytes;
    const silent = input.isConstant(g) && !v128.any_true(v128.load(input.row(g, frame)));
    let quiet = load<u32>(state.quietAt);
    if (silent && quiet > mask && m.settled(g)) {
      m.outOut.fill(g, frame, frames, splat(0));
      continue;
    }
    resting = false;
    catchUp(state.passedAt, state.phaseAt, frame);
    const cutsMove = (m.low.step(g) | m.high.step(g)) != 0,
      driveMoves = m.drive.step(g) != 0,
      hasMotion = m.motion.step(g) != 0 || v128.any_true(m.motion.at(g, frame)),
      ducks = m.duck.step(g) != 0 || v128.any_true(m.duck.at(g, frame));
    let lowShare = splat(0),
      highShare = splat(0),
      bend = splat(0);
    for (let f = frame, end = frame + frames; f < end; ++f) {
      const now = time + f,
        x = input.at(g, f),
        smoothing = m.smoothing.at(g, f),
        isLinked = isOn(m.link.at(g, f)),
        synced = isOn(m.sync.at(g, f)),
        isHeld = isOn(m.hold.at(g, f)),
        isCrossed = isOn(m.pingpong.at(g, f));
      const right = v128.andnot(rights(), isLinked);
      let goal = mul(v128.bitselect(m.right.at(g, f), m.left.at(g, f), right), perMs);
      goal = select(select(splat(rightNote), splat(leftNote), right), goal, synced);
      goal = select(f32x4.nearest(goal), goal, isHeld);
      if (!v128.any_true(state.isStarted)) {
        state.goal = goal;
        state.fadeFrom = goal;
        state.fadeTo = goal;
        state.faded = splat(1);
        state.held = v128.and(isHeld, splat(1));
        state.crossed = v128.and(isCrossed, splat(1));
        state.isStarted = i32x4.splat(-1);
      }
      const held = stepTo(state.held, v128.and(isHeld, splat(1)), holdStep),
        cross = stepTo(state.crossed, v128.and(isCrossed, splat(1)), crossStep);
      state.held = held;
      state.crossed = cross;
      clearing(state, m.clear.at(g, f), now, mask);
      // Motion: the right side a quarter of a cycle on; none while it is held.
      const phase = state.phase;
      stepPhase(state.phaseAt, phase, state.phaseLow, m.motionRate.at(g, f));
      let moved = splat(0);
      if (hasMotion) {
        const reach = mul(
          mul(m.motion.at(g, f), sub(splat(1), held)),
          lower(splat(MOTION_SECONDS * sampleRate), mul(goal, splat(MOTION_SHARE))),
        );
        const turned = i32x4.add(phase, i32x4(0, 0x40000000, 0, 0x40000000));
        moved = mul(reach, sineOfCycles(signedPhase(turned)));
      }
      if (driveMoves || f == frame) bend = bendOf(m.drive.at(g, f));
      const bends = v128.any_true(bend);
      let heat = splat(0);
      if (bends) {
        heat = mul(lower(mul(bend, splat(WHOLLY)), splat(1)), sub(splat(1), held));
        moved = sub(moved, mul(heat, splat(LEAD)));
      }
      let y: v128;
      if (isTape) {
        y = readAt(state, isPair, ring, mask, now, add(tapeStep(state, goal, smoothing), moved));
        // The other law begins where this one is.
        state.fadeTo = add(goal, state.apartBy);
        state.faded = splat(1);
      } else {
        fadeStep(state, goal, smoothing);
        state.goal = state.fadeTo;
        state.apartBy = splat(0);
        state.speed = splat(0);
        const w = state.faded;
        y = readAt(state, isPair, ring, mask, now, add(state.fadeTo, moved));
        if (!i32x4.all_true(f32x4.ge(w, splat(1)))) {
          const before = readAt(state, isPair, ring, mask, now, add(state.fadeFrom, moved));
          y = towards(before, y, mul(mul(w, w), sub(splat(3), add(w, w))));
        }
      }
      const lowHz = m.low.at(g, f),
        highHz = m.high.at(g, f);
      if (cutsMove || f == frame) {
        lowShare = onePoleShare(mul(lowHz, share));
        highShare = onePoleShare(mul(highHz, share));
      }
      const below = lowPass(state.lowsAt, y, lowShare);
      const cut = select(sub(y, below), y, f32x4.gt(lowHz, splat(LOWEST)));
      const dull = lowPass(state.highsAt, cut, highShare);
      const toned = select(dull, cut, f32x4.lt(highHz, splat(HIGHEST)));
      const hot = bends ? towards(toned, driven(state.overAt, state.lastAt, toned, bend), heat) : toned;
      const holds = v128.any_true(held);
      let wet = hot,
        feedback = m.feedback.at(g, f),
        entering = x,
        back = hot;
      if (v128.any_true(cross)) {
        const both = v128.andnot(mul(splat(0.5), add(x, crossed(x))), rights());
        entering = towards(x, both, cross);
      }
      if (holds) {
        wet = towards(hot, y, held);
        back = wet;
        feedback = towards(feedback, splat(1), held);
        entering = mul(entering, sub(splat(1), held));
      }
      if (v128.any_true(cross)) back = towards(wet, crossed(wet), cross);
      const sum = add(entering, mul(back, feedback)),
        bent = softLimit(sum, KNEE, RANGE);
      // What is held goes round as it is; what is not finite would go round for ever.
      const kept = holds ? towards(bent, softLimit(sum, 1e5, 1), held) : bent;
      // Softer than can be heard, with nothing coming in, is nothing: it ends.
      const comes = f32x4.ne(x, splat(0));
      const sane = v128.and(kept, v128.or(comes, f32x4.gt(f32x4.abs(kept), splat(SILENCE))));
      quiet = v128.any_true(v128.or(sane, comes)) ? 0 : quiet + 1;
      v128.store(slotOf(ring, mask, now), sane);
      let heard = wet;
      if (ducks) {
        const loud = linked(f32x4.abs(x)),
          before = state.level;
        const pace = select(splat(up), splat(down), f32x4.gt(loud, before));
        const level = endedBelow(madd(sub(loud, before), pace, before), 1e-6);
        state.level = level;
        heard = mul(
          wet,
          sub(splat(1), mul(m.duck.at(g, f), lower(mul(level, splat(1 / DUCK_LEVEL)), splat(1)))),
        );
      }
      m.outOut.put(g, f, mixed(x, heard, m.mix.at(g, f)));
    }
    store<u32>(state.quietAt, min<u32>(quiet, 0x7fffffff));
    notePassed(state.passedAt, frame + frames, m.motionRate.at(g, frame + frames - 1));
  }
  if (resting) m.rest();
}
