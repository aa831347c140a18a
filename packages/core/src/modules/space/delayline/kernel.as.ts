// Delay line in two stages: read, then write. In between stands whatever the patch puts into the loop, so a loop
// through it is delayed by exactly the time set.
//
// Further memory: per group 128 vectors with the delays of the running segment, then the ring of frames. The ring's
// position is the absolute frame, so both stages agree without state.
import * as P from "../../../generated/delayline.as";
import { Signal } from "../../../kernels/signal.as";
import { sampleRate, time } from "../../../kernels/time.as";
import { delayFrames, leastLane, maskOf, reachOf, readPast, SLACK, slotOf } from "../../../kernels/delays.as";
import { keepOver } from "../../../kernels/detectors.as";
import { LOOP_KNEE, LOOP_RANGE, softLimit } from "../../../kernels/limits.as";
import { add, clamp, higher, madd, mul, splat, sub, uniform } from "../../../kernels/simd.as";

const DELAY_BYTES: usize = 2048;
const TAPS: u32 = 5;
/** A step of the delay has settled after `smoothing`: within 2 %, four time constants. */
const TIME_CONSTANTS: f32 = 4;


@inline function groupBytes(m: P.Module): usize {
  return m.auxBytes / m.groups;
}


@inline function delaysOf(m: P.Module, g: u32): usize {
  return m.aux + g * groupBytes(m);
}


@inline function ringOf(m: P.Module, g: u32): usize {
  return delaysOf(m, g) + DELAY_BYTES;
}


@inline function ringMask(m: P.Module): u32 {
  return maskOf(groupBytes(m) - DELAY_BYTES);
}

/** Works out the delay in frames for a stretch of frames, smoothed, and keeps it beside the ring. */
function computeDelays(m: P.Module, g: u32, frame: u32, frames: u32): void {
  const state = m.state(g);
  const unit = m.unit;
  const timeSignal = m.time,
    pitch = m.pitch,
    offset = m.offset;
  const trim = m.trim,
    smoothing = m.smoothing;
  let pTime = timeSignal.row(g, frame),
    pPitch = pitch.row(g, frame),
    pOffset = offset.row(g, frame);
  let pTrim = trim.row(g, frame),
    pSmoothing = smoothing.row(g, frame);
  const sTime = timeSignal.step(g),
    sPitch = pitch.step(g),
    sOffset = offset.step(g),
    sTrim = trim.step(g),
    sSmoothing = smoothing.step(g);
  const perMs: f32 = sampleRate / 1000;
  const most = splat(<f32>(ringMask(m) - SLACK));
  let behind = state.behind,
    before = state.target;
  const delays = delaysOf(m, g);
  const steady = (sTime | sPitch | sOffset | sTrim | sSmoothing) == 0;
  let goal = splat(0),
    keep = splat(0),
    moved = splat(0);
  for (let f: u32 = 0; f < frames; ++f) {
    if (f == 0 || !steady) {
      goal = delayFrames(unit, v128.load(pTime), v128.load(pPitch));
      moved = sub(mul(v128.load(pOffset), splat(perMs)), v128.load(pTrim));
      const frames4 = mul(v128.load(pSmoothing), splat(perMs / TIME_CONSTANTS));
      keep = v128.and(keepOver(1, higher(frames4, splat(1e-3))), f32x4.gt(frames4, splat(1e-3)));
      if (!v128.any_true(state.started)) {
        state.started = i32x4.splat(-1);
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
  state.behind = behind;
  state.target = before;
}


@inline function isInsideLoop(signal: Signal): bool {
  return signal.isFixed;
}
/** True when the delay's own controls are computed before the loop runs. */
function isForeseeable(m: P.Module): bool {
  return !(
    isInsideLoop(m.time) ||
    isInsideLoop(m.pitch) ||
    isInsideLoop(m.offset) ||
    isInsideLoop(m.trim) ||
    isInsideLoop(m.smoothing)
  );
}

/** Reports the least delay of the coming segment, computing its delays on the way. */
export function readLeast(m: P.Module, frame: u32, frames: u32): u32 {
  if (!isForeseeable(m)) {
    return 1;
  }
  let share: f32 = 1;
  for (let n: u32 = 0; n < 4; ++n) {
    const at = m.signal(P.PARAM_AT1 + (n << 2));
    if (!m.signal(P.OUT_TAP1 + (n << 2)).isWanted) continue;
    // A moving tap may come as near as it likes.
    if (at.step(0) != 0 || isInsideLoop(at)) share = 0;
    for (let g: u32 = 0; g < m.groups; ++g) share = min(share, leastLane(v128.load(at.row(g, 0))));
  }
  let least: f32 = 1e9;
  for (let g: u32 = 0, groups = m.groups; g < groups; ++g) {
    computeDelays(m, g, 0, frames);
    const delays = delaysOf(m, g);
    let lowest = v128.load(delays);
    for (let f: u32 = 1; f < frames; ++f) lowest = f32x4.pmin(lowest, v128.load(delays + (f << 4)));
    least = min(least, leastLane(lowest));
  }
  return <u32>max(1, <i32>(least * share) - reachOf(m.interpolation));
}

export function read(m: P.Module, frame: u32, frames: u32): void {
  const kind = m.interpolation;
  const mask = ringMask(m);
  const foreseen = isForeseeable(m);
  for (let g: u32 = 0, groups = m.groups; g < groups; ++g) {
    if (!foreseen) computeDelays(m, g, frame, frames);
    const state = m.state(g);
    const ring = ringOf(m, g),
      delays = delaysOf(m, g) + (frame << 4);
    for (let tap: u32 = 0; tap < TAPS; ++tap) {
      const out = m.signal(P.OUT_OUT + (tap << 2));
      if (tap > 0 && !out.isWanted) continue;
      const share = m.signal(P.PARAM_AT1 + (max(tap, 1) - 1) * 4);
      let pShare = share.row(g, frame);
      const sShare = share.step(g);
      const p = out.write(g, frame);
      for (let f: u32 = 0; f < frames; ++f) {
        let delay = v128.load(delays + (f << 4));
        if (tap > 0) delay = higher(mul(delay, v128.load(pShare)), splat(1));
        pShare += sShare;
        v128.store(
          p + (f << 4),
          readPast(kind, ring, mask, time + frame + f, delay, uniform(delay), state.allpassAt + (tap << 4)),
        );
      }
    }
  }
}

export function write(m: P.Module, frame: u32, frames: u32): void {
  const input = m.in,
    feedback = m.feedback,
    out = m.outOut;
  const mask = ringMask(m);
  for (let g: u32 = 0, groups = m.groups; g < groups; ++g) {
    const ring = ringOf(m, g);
    let x = input.row(g, frame),
      b = feedback.row(g, frame);
    const xs = input.step(g),
      bs = feedback.step(g),
      y = out.row(g, frame);
    for (let f: u32 = 0; f < frames; ++f) {
      const z = madd(v128.load(b), v128.load(y + (f << 4)), v128.load(x));
      v128.store(slotOf(ring, mask, time + frame + f), softLimit(z, LOOP_KNEE, LOOP_RANGE));
      x += xs;
      b += bs;
    }
  }
}
