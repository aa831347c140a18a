import * as P from "../../../generated/gate.as";
import { isOn, isZero, nextTrigger, rising, startTrigger, unmoved } from "../../../kernels/edges.as";
import { sampleRate } from "../../../kernels/time.as";
import { add, higher, mul, splat } from "../../../kernels/simd.as";

export function idle(state: P.State, input: v128): bool {
  return (
    unmoved(state.beforeAt, input) &&
    isZero(state.untilStartAt) &&
    isZero(state.untilEndAt) &&
    isZero(state.startLeftAt) &&
    isZero(state.endLeftAt)
  );
}

/** Frames of a time, at least one: counters run from it to 0 and act when they pass 1. */
@inline function framesOf(seconds: v128): v128 {
  return i32x4.trunc_sat_f32x4_s(add(mul(seconds, splat(sampleRate)), splat(1.5)));
}
/** Counts down; the lanes that arrive now. */
@inline function arriving(at: usize): v128 {
  const now = v128.load(at),
    running = i32x4.gt_s(now, i32x4.splat(0));
  const next = i32x4.add(now, running);
  v128.store(at, next);
  return v128.and(running, i32x4.eq(next, i32x4.splat(0)));
}

export function compute(state: P.State, out: P.Outputs, input: v128, delay: v128, length: v128): void {
  const was = state.before;
  const rises = rising(state.beforeAt, input),
    falls = v128.andnot(was, isOn(input));
  const wait = framesOf(delay),
    fixed = f32x4.gt(length, splat(0));
  state.untilStart = v128.bitselect(wait, state.untilStart, rises);
  // A gate as long as in ends the delay after in did.
  state.untilEnd = v128.bitselect(wait, state.untilEnd, v128.andnot(falls, fixed));
  const ends = arriving(state.untilEndAt),
    starts = arriving(state.untilStartAt);
  const frames = i32x4.trunc_sat_f32x4_s(higher(splat(1), f32x4.nearest(mul(length, splat(sampleRate)))));
  state.untilEnd = v128.bitselect(frames, state.untilEnd, v128.and(starts, fixed));
  const before = state.open;
  const open = v128.or(v128.andnot(before, ends), starts);
  state.open = open;
  startTrigger(state.startLeftAt, starts);
  startTrigger(state.endLeftAt, v128.andnot(before, open));
  out.gate = v128.and(open, splat(1));
  out.start = nextTrigger(state.startLeftAt);
  out.end = nextTrigger(state.endLeftAt);
}
