// All-pass after Schroeder ("Natural sounding artificial reverberation", 1962): v = x - g r, out = r + g v, where r is
// what comes back at return, and send = v delayed. Read and write are apart, so that what is nested between send and
// return costs no sample.
import * as P from "../../../generated/allpass.as";
import { SIGNAL_FIXED } from "../../../kernels/abi";
import {
  auxBytesOf,
  auxOf,
  choiceOf,
  groupsOf,
  isCabled,
  pointerTo,
  sampleRate,
  signalAt,
  stateOf,
  strideOf,
  time,
  writeTo,
} from "../../../kernels/instance.as";
import { leastLane, readPast } from "../../../kernels/delays.as";
import { LOOP_RANGE, softLimit } from "../../../kernels/limits.as";
import { reportDelay } from "../../../kernels/executor.as";
import { C4 } from "../../../kernels/phase.as";
import { clamp, div, exp2, madd, mul, splat, sub, uniform } from "../../../kernels/simd.as";

/** With gains near 1 the loop of an all-pass holds much more than what comes out of it. */
const ALLPASS_KNEE: f32 = 64;
/** What a ring keeps free: one block and the reach of the interpolation. */
const SLACK: u32 = 134;

// @ts-ignore: decorator
@inline function maskOf(instance: usize): u32 {
  return ((auxBytesOf(instance) / groupsOf(instance)) >> 4) - 1;
}
// @ts-ignore: decorator
@inline function ringOf(instance: usize, g: u32): usize {
  return auxOf(instance) + <usize>g * (auxBytesOf(instance) / groupsOf(instance));
}

/** The delay in frames at a frame. */
// @ts-ignore: decorator
@inline function delayAt(unit: i32, timeAt: v128, pitchAt: v128, most: v128): v128 {
  const goal =
    unit == P.UNIT_PITCH
      ? div(splat(sampleRate / C4), exp2(pitchAt))
      : unit == P.UNIT_MS
        ? mul(timeAt, splat(sampleRate / 1000))
        : timeAt;
  return clamp(goal, splat(1), most);
}

export function readLeast(instance: usize, frame: u32, frames: u32): void {
  const timeSignal = signalAt(instance, P.PARAM_TIME),
    pitch = signalAt(instance, P.IN_PITCH);
  if (load<u32>(timeSignal, SIGNAL_FIXED) || load<u32>(pitch, SIGNAL_FIXED)) {
    reportDelay(1);
    return;
  }
  const unit = choiceOf(instance, P.SET_UNIT),
    most = splat(<f32>(maskOf(instance) - SLACK));
  let least: f32 = 1e9;
  for (let g: u32 = 0, groups = groupsOf(instance); g < groups; ++g) {
    let t = pointerTo(timeSignal, g, 0),
      p = pointerTo(pitch, g, 0);
    const ts = strideOf(timeSignal, g),
      ps = strideOf(pitch, g);
    for (let f: u32 = 0, n: u32 = ts | ps ? frames : 1; f < n; ++f) {
      least = min(least, leastLane(delayAt(unit, v128.load(t), v128.load(p), most)));
      t += ts;
      p += ps;
    }
  }
  reportDelay(
    <u32>max(1, <i32>least - (choiceOf(instance, P.SET_INTERPOLATION) == P.INTERPOLATION_SPLINE ? 2 : 1)),
  );
}

export function read(instance: usize, frame: u32, frames: u32): void {
  const unit = choiceOf(instance, P.SET_UNIT),
    kind = choiceOf(instance, P.SET_INTERPOLATION),
    mask = maskOf(instance),
    most = splat(<f32>(mask - SLACK));
  const timeSignal = signalAt(instance, P.PARAM_TIME),
    pitch = signalAt(instance, P.IN_PITCH),
    send = signalAt(instance, P.OUT_SEND);
  for (let g: u32 = 0, groups = groupsOf(instance); g < groups; ++g) {
    const ring = ringOf(instance, g),
      state = stateOf(instance, g) + P.STATE_INTERPOLATED;
    let t = pointerTo(timeSignal, g, frame),
      p = pointerTo(pitch, g, frame);
    const ts = strideOf(timeSignal, g),
      ps = strideOf(pitch, g),
      q = writeTo(send, g, frame),
      steady = (ts | ps) == 0;
    let delay = delayAt(unit, v128.load(t), v128.load(p), most),
      same = uniform(delay);
    for (let f: u32 = 0; f < frames; ++f) {
      if (!steady) {
        delay = delayAt(unit, v128.load(t), v128.load(p), most);
        same = uniform(delay);
      }
      v128.store(q + (f << 4), readPast(kind, ring, mask, time + frame + f, delay, same, state));
      t += ts;
      p += ps;
    }
  }
}

export function write(instance: usize, frame: u32, frames: u32): void {
  const input = signalAt(instance, P.IN_IN),
    gain = signalAt(instance, P.PARAM_GAIN),
    out = signalAt(instance, P.OUT_OUT);
  const back = isCabled(signalAt(instance, P.IN_RETURN))
      ? signalAt(instance, P.IN_RETURN)
      : signalAt(instance, P.OUT_SEND),
    mask = maskOf(instance);
  for (let g: u32 = 0, groups = groupsOf(instance); g < groups; ++g) {
    const ring = ringOf(instance, g);
    let x = pointerTo(input, g, frame),
      k = pointerTo(gain, g, frame),
      r = pointerTo(back, g, frame);
    const xs = strideOf(input, g),
      ks = strideOf(gain, g),
      rs = strideOf(back, g),
      q = writeTo(out, g, frame);
    for (let f: u32 = 0; f < frames; ++f) {
      const gg = v128.load(k),
        returned = v128.load(r);
      const sane = softLimit(sub(v128.load(x), mul(gg, returned)), ALLPASS_KNEE, LOOP_RANGE);
      v128.store(ring + ((<usize>((time + frame + f) & mask)) << 4), sane);
      v128.store(q + (f << 4), madd(gg, sane, returned));
      x += xs;
      k += ks;
      r += rs;
    }
  }
}
