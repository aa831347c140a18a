import * as P from "../../../generated/glide.as";
import { isOn, isZero } from "../../../kernels/edges.as";
import { sampleRate } from "../../../kernels/time.as";
import { add, clamp, div, exp2, higher, mul, select, splat, sub } from "../../../kernels/simd.as";

/** log2 of 1 %. */
const LOG2_REST: f32 = -6.6438562;

export function idle(m: P.Module, g: u32): bool {
  const state = m.state(g);
  return (
    isZero(state.distanceAt) &&
    !isZero(state.startedAt) &&
    !v128.any_true(f32x4.ne(state.before, m.in.at(g, 0)))
  );
}

export function compute(m: P.Module, g: u32, f: u32): void {
  const state = m.state(g),
    x = m.in.at(g, f);
  // What it still lacks of the goal is kept, not the value: it ends exactly there.
  let distance = state.distance;
  if (isZero(state.startedAt)) state.started = i32x4.splat(-1);
  else distance = add(distance, sub(x, state.before));
  state.before = x;
  const rise = m.rise.at(g, f);
  const fall = select(rise, m.fall.at(g, f), f32x4.gt(m.link.at(g, f), splat(0.5)));
  const frames = mul(select(rise, fall, f32x4.gt(distance, splat(0))), splat(sampleRate));
  const long = f32x4.ge(frames, splat(1));
  if (m.curve == P.CURVE_LINEAR) {
    const step = div(splat(1), higher(frames, splat(1)));
    distance = sub(distance, clamp(distance, f32x4.neg(step), step));
  } else {
    distance = mul(distance, exp2(div(splat(LOG2_REST), higher(frames, splat(1)))));
    distance = v128.and(distance, f32x4.gt(f32x4.abs(distance), splat(1e-7)));
  }
  distance = v128.and(distance, long);
  if (m.gate.isCabled) distance = v128.and(distance, isOn(m.gate.at(g, f)));
  state.distance = distance;
  m.outOut.put(g, f, sub(x, distance));
}
