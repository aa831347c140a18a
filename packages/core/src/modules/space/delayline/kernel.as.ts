// Delay line in two stages: read, then write. In between stands whatever the patch puts into the loop, so a loop
// through it is delayed by exactly the time set.
//
// Further memory: per group 128 vectors with the delays of the running segment, then the ring of frames. The ring's
// position is the absolute frame, so both stages agree without state.
import * as P from "../../../generated/delayline.as";
import { SIGNAL_FIXED } from "../../../kernels/abi";
import {
  auxBytesOf,
  auxOf,
  choiceOf,
  groupsOf,
  isWanted,
  pointerTo,
  sampleRate,
  signalAt,
  stateOf,
  strideOf,
  time,
  writeTo,
} from "../../../kernels/instance.as";
import { leastLane, readPast } from "../../../kernels/delays.as";
import { LOOP_KNEE, LOOP_RANGE, softLimit } from "../../../kernels/limits.as";
import { reportDelay } from "../../../kernels/executor.as";
import { add, clamp, div, exp2, higher, madd, mul, splat, sub, uniform } from "../../../kernels/simd.as";

const C4: f32 = 261.6256;
const DELAY_BYTES: usize = 2048;
const TAPS: u32 = 5;
/** What a ring keeps free: one block and the reach of the interpolation. */
const SLACK: u32 = 134;
/** A step of the delay has settled after `smoothing`: within 2 %, four time constants. */
const TIME_CONSTANTS: f32 = 4;

// @ts-ignore: decorator
@inline function groupBytes(instance: usize): usize {
  return auxBytesOf(instance) / groupsOf(instance);
}
// @ts-ignore: decorator
@inline function delaysOf(instance: usize, g: u32): usize {
  return auxOf(instance) + g * groupBytes(instance);
}
// @ts-ignore: decorator
@inline function ringOf(instance: usize, g: u32): usize {
  return delaysOf(instance, g) + DELAY_BYTES;
}
// @ts-ignore: decorator
@inline function maskOf(instance: usize): u32 {
  return <u32>((groupBytes(instance) - DELAY_BYTES) >> 4) - 1;
}

/** Works out the delay in frames for a stretch of frames, smoothed, and keeps it beside the ring. */
function computeDelays(instance: usize, g: u32, frame: u32, frames: u32): void {
  const state = stateOf(instance, g);
  const unit = choiceOf(instance, P.SET_UNIT);
  const timeSignal = signalAt(instance, P.PARAM_TIME),
    pitch = signalAt(instance, P.IN_PITCH),
    offset = signalAt(instance, P.IN_OFFSET);
  const trim = signalAt(instance, P.PARAM_TRIM),
    smoothing = signalAt(instance, P.PARAM_SMOOTHING);
  let pTime = pointerTo(timeSignal, g, frame),
    pPitch = pointerTo(pitch, g, frame),
    pOffset = pointerTo(offset, g, frame);
  let pTrim = pointerTo(trim, g, frame),
    pSmoothing = pointerTo(smoothing, g, frame);
  const sTime = strideOf(timeSignal, g),
    sPitch = strideOf(pitch, g),
    sOffset = strideOf(offset, g),
    sTrim = strideOf(trim, g),
    sSmoothing = strideOf(smoothing, g);
  const perMs: f32 = sampleRate / 1000;
  const most = splat(<f32>(maskOf(instance) - SLACK));
  let behind = v128.load(state + P.STATE_BEHIND),
    before = v128.load(state + P.STATE_TARGET);
  const delays = delaysOf(instance, g);
  const steady = (sTime | sPitch | sOffset | sTrim | sSmoothing) == 0;
  let goal = splat(0),
    keep = splat(0),
    moved = splat(0);
  for (let f: u32 = 0; f < frames; ++f) {
    if (f == 0 || !steady) {
      goal =
        unit == P.UNIT_PITCH
          ? div(splat(sampleRate / C4), exp2(v128.load(pPitch)))
          : unit == P.UNIT_MS
            ? mul(v128.load(pTime), splat(perMs))
            : v128.load(pTime);
      moved = sub(mul(v128.load(pOffset), splat(perMs)), v128.load(pTrim));
      const frames4 = mul(v128.load(pSmoothing), splat(perMs / TIME_CONSTANTS));
      keep = v128.and(
        exp2(div(splat(-1.44269504), higher(frames4, splat(1e-3)))),
        f32x4.gt(frames4, splat(1e-3)),
      );
      if (!v128.any_true(v128.load(state + P.STATE_STARTED))) {
        v128.store(state + P.STATE_STARTED, i32x4.splat(-1));
        before = goal;
      }
    }
    let delay = add(goal, moved);
    // Only a time takes its time: a period follows its pitch, an offset its wave, sample by sample.
    if (unit != P.UNIT_PITCH) {
      // How far the smoothed time is behind its goal: relative to the goal, so it ends exactly there.
      behind = mul(add(behind, sub(goal, before)), keep);
      behind = v128.and(behind, f32x4.gt(f32x4.abs(behind), splat(1e-4)));
      before = goal;
      delay = sub(delay, behind);
    }
    v128.store(delays + ((frame + f) << 4), clamp(delay, splat(1), most));
    pTime += sTime;
    pPitch += sPitch;
    pOffset += sOffset;
    pTrim += sTrim;
    pSmoothing += sSmoothing;
  }
  v128.store(state + P.STATE_BEHIND, behind);
  v128.store(state + P.STATE_TARGET, before);
}

// @ts-ignore: decorator
@inline function isInsideLoop(signal: usize): bool {
  return load<u32>(signal, SIGNAL_FIXED) != 0;
}
/** True when the delay's own controls are computed before the loop runs. */
function isForeseeable(instance: usize): bool {
  return !(
    isInsideLoop(signalAt(instance, P.PARAM_TIME)) ||
    isInsideLoop(signalAt(instance, P.IN_PITCH)) ||
    isInsideLoop(signalAt(instance, P.IN_OFFSET)) ||
    isInsideLoop(signalAt(instance, P.PARAM_TRIM)) ||
    isInsideLoop(signalAt(instance, P.PARAM_SMOOTHING))
  );
}

/** Frames newer than the delay that an interpolation reads. */
function reachOf(instance: usize): i32 {
  const kind = choiceOf(instance, P.SET_INTERPOLATION);
  return kind == P.INTERPOLATION_SPLINE ? 2 : 1;
}

/** Reports the least delay of the coming segment, computing its delays on the way. */
export function readLeast(instance: usize, frame: u32, frames: u32): void {
  if (!isForeseeable(instance)) {
    reportDelay(1);
    return;
  }
  let share: f32 = 1;
  for (let n: u32 = 0; n < 4; ++n) {
    const at = signalAt(instance, P.PARAM_AT1 + (n << 2));
    if (!isWanted(signalAt(instance, P.OUT_TAP1 + (n << 2)))) continue;
    // A moving tap may come as near as it likes.
    if (strideOf(at, 0) != 0 || isInsideLoop(at)) share = 0;
    for (let g: u32 = 0; g < groupsOf(instance); ++g)
      share = min(share, leastLane(v128.load(pointerTo(at, g, 0))));
  }
  let least: f32 = 1e9;
  for (let g: u32 = 0, groups = groupsOf(instance); g < groups; ++g) {
    computeDelays(instance, g, 0, frames);
    const delays = delaysOf(instance, g);
    let lowest = v128.load(delays);
    for (let f: u32 = 1; f < frames; ++f) lowest = f32x4.pmin(lowest, v128.load(delays + (f << 4)));
    least = min(least, leastLane(lowest));
  }
  reportDelay(<u32>max(1, <i32>(least * share) - reachOf(instance)));
}

export function read(instance: usize, frame: u32, frames: u32): void {
  const kind = choiceOf(instance, P.SET_INTERPOLATION);
  const mask = maskOf(instance);
  const foreseen = isForeseeable(instance);
  for (let g: u32 = 0, groups = groupsOf(instance); g < groups; ++g) {
    if (!foreseen) computeDelays(instance, g, frame, frames);
    const state = stateOf(instance, g);
    const ring = ringOf(instance, g),
      delays = delaysOf(instance, g) + (frame << 4);
    for (let tap: u32 = 0; tap < TAPS; ++tap) {
      const out = signalAt(instance, P.OUT_OUT + (tap << 2));
      if (tap > 0 && !isWanted(out)) continue;
      const share = signalAt(instance, P.PARAM_AT1 + (max(tap, 1) - 1) * 4);
      let pShare = pointerTo(share, g, frame);
      const sShare = strideOf(share, g);
      const p = writeTo(out, g, frame);
      for (let f: u32 = 0; f < frames; ++f) {
        let delay = v128.load(delays + (f << 4));
        if (tap > 0) delay = higher(mul(delay, v128.load(pShare)), splat(1));
        pShare += sShare;
        v128.store(
          p + (f << 4),
          readPast(
            kind,
            ring,
            mask,
            time + frame + f,
            delay,
            uniform(delay),
            state + P.STATE_ALLPASS + (tap << 4),
          ),
        );
      }
    }
  }
}

export function write(instance: usize, frame: u32, frames: u32): void {
  const input = signalAt(instance, P.IN_IN),
    feedback = signalAt(instance, P.PARAM_FEEDBACK),
    out = signalAt(instance, P.OUT_OUT);
  const mask = maskOf(instance);
  for (let g: u32 = 0, groups = groupsOf(instance); g < groups; ++g) {
    const ring = ringOf(instance, g);
    let x = pointerTo(input, g, frame),
      b = pointerTo(feedback, g, frame);
    const xs = strideOf(input, g),
      bs = strideOf(feedback, g),
      y = pointerTo(out, g, frame);
    for (let f: u32 = 0; f < frames; ++f) {
      const z = madd(v128.load(b), v128.load(y + (f << 4)), v128.load(x));
      v128.store(ring + ((<usize>((time + frame + f) & mask)) << 4), softLimit(z, LOOP_KNEE, LOOP_RANGE));
      x += xs;
      b += bs;
    }
  }
}
