import * as P from "../../../generated/gate.as";
import { isOn, isZero, nextTrigger, rising, startTrigger, unmoved } from "../../../kernels/edges.as";
import { sampleRate } from "../../../kernels/time.as";
import { add, higher, mul, splat } from "../../../kernels/simd.as";

export function idle(m: P.Module, g: u32): bool {
  const state = m.state(g);
  return (
    unmoved(state.beforeAt, m.in.at(g, 0)) &&
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

export function compute(m: P.Module, g: u32, f: u32): void {
  const state = m.state(g),
    gate = m.in.at(g, f);
  const was = state.before;
  const rises = rising(state.beforeAt, gate),
    falls = v128.andnot(was, isOn(gate));
  const delay = framesOf(m.delay.at(g, f)),
    lengthSeconds = m.length.at(g, f);
  const fixed = f32x4.gt(lengthSeconds, splat(0));
  state.untilStart = v128.bitselect(delay, state.untilStart, rises);
  // A gate as long as in ends the delay after in did.
  state.untilEnd = v128.bitselect(delay, state.untilEnd, v128.andnot(falls, fixed));
  const ends = arriving(state.untilEndAt),
    starts = arriving(state.untilStartAt);
  const length = i32x4.trunc_sat_f32x4_s(
    higher(splat(1), f32x4.nearest(mul(lengthSeconds, splat(sampleRate)))),
  );
  state.untilEnd = v128.bitselect(length, state.untilEnd, v128.and(starts, fixed));
  const before = state.open;
  const open = v128.or(v128.andnot(before, ends), starts);
  state.open = open;
  startTrigger(state.startLeftAt, starts);
  startTrigger(state.endLeftAt, v128.andnot(before, open));
  m.outGate.put(g, f, v128.and(open, splat(1)));
  m.outStart.put(g, f, nextTrigger(state.startLeftAt));
  m.outEnd.put(g, f, nextTrigger(state.endLeftAt));
}
