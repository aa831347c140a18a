import * as P from "../../../generated/gate.as";
import { isOn, isZero, nextTrigger, rising, startTrigger, unmoved } from "../../../kernels/edges.as";
import { put, read, sampleRate, stateOf } from "../../../kernels/instance.as";
import { add, higher, mul, splat } from "../../../kernels/simd.as";

export function idle(instance: usize, g: u32): bool {
  const state = stateOf(instance, g);
  return (
    unmoved(state + P.STATE_BEFORE, read(instance, P.IN_IN, g, 0)) &&
    isZero(state + P.STATE_UNTILSTART) &&
    isZero(state + P.STATE_UNTILEND) &&
    isZero(state + P.STATE_STARTLEFT) &&
    isZero(state + P.STATE_ENDLEFT)
  );
}

/** Frames of a time, at least one: counters run from it to 0 and act when they pass 1. */
// @ts-ignore: decorator
@inline function framesOf(seconds: v128): v128 {
  return i32x4.trunc_sat_f32x4_s(add(mul(seconds, splat(sampleRate)), splat(1.5)));
}
/** Counts down; the lanes that arrive now. */
// @ts-ignore: decorator
@inline function arriving(at: usize): v128 {
  const now = v128.load(at),
    running = i32x4.gt_s(now, i32x4.splat(0));
  const next = i32x4.add(now, running);
  v128.store(at, next);
  return v128.and(running, i32x4.eq(next, i32x4.splat(0)));
}

export function compute(instance: usize, g: u32, f: u32): void {
  const state = stateOf(instance, g),
    gate = read(instance, P.IN_IN, g, f);
  const was = v128.load(state + P.STATE_BEFORE);
  const rises = rising(state + P.STATE_BEFORE, gate),
    falls = v128.andnot(was, isOn(gate));
  const delay = framesOf(read(instance, P.PARAM_DELAY, g, f)),
    lengthSeconds = read(instance, P.PARAM_LENGTH, g, f);
  const fixed = f32x4.gt(lengthSeconds, splat(0));
  v128.store(state + P.STATE_UNTILSTART, v128.bitselect(delay, v128.load(state + P.STATE_UNTILSTART), rises));
  // A gate as long as in ends the delay after in did.
  v128.store(
    state + P.STATE_UNTILEND,
    v128.bitselect(delay, v128.load(state + P.STATE_UNTILEND), v128.andnot(falls, fixed)),
  );
  const ends = arriving(state + P.STATE_UNTILEND),
    starts = arriving(state + P.STATE_UNTILSTART);
  const length = i32x4.trunc_sat_f32x4_s(
    higher(splat(1), f32x4.nearest(mul(lengthSeconds, splat(sampleRate)))),
  );
  v128.store(
    state + P.STATE_UNTILEND,
    v128.bitselect(length, v128.load(state + P.STATE_UNTILEND), v128.and(starts, fixed)),
  );
  const before = v128.load(state + P.STATE_OPEN);
  const open = v128.or(v128.andnot(before, ends), starts);
  v128.store(state + P.STATE_OPEN, open);
  startTrigger(state + P.STATE_STARTLEFT, starts);
  startTrigger(state + P.STATE_ENDLEFT, v128.andnot(before, open));
  put(instance, P.OUT_GATE, g, f, v128.and(open, splat(1)));
  put(instance, P.OUT_START, g, f, nextTrigger(state + P.STATE_STARTLEFT));
  put(instance, P.OUT_END, g, f, nextTrigger(state + P.STATE_ENDLEFT));
}
