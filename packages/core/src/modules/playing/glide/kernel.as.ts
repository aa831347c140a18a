import * as P from "../../../generated/glide.as";
import { isOn, isZero } from "../../../kernels/edges.as";
import { sampleRate } from "../../../kernels/time.as";
import { add, clamp, div, exp2, higher, mul, select, splat, sub } from "../../../kernels/simd.as";

/** log2 of 1 %. */
const LOG2_REST: f32 = -6.6438562;

export function idle(state: P.State, input: v128): bool {
  return (
    isZero(state.distanceAt) && !isZero(state.startedAt) && !v128.any_true(f32x4.ne(state.before, input))
  );
}

export function compute(
  m: P.Module,
  state: P.State,
  input: v128,
  rise: v128,
  fall: v128,
  link: v128,
  gate: v128,
): v128 {
  // What it still lacks of the goal is kept, not the value: it ends exactly there.
  let distance = state.distance;
  if (isZero(state.startedAt)) state.started = i32x4.splat(-1);
  else distance = add(distance, sub(input, state.before));
  state.before = input;
  const down = select(rise, fall, f32x4.gt(link, splat(0.5)));
  const frames = mul(select(rise, down, f32x4.gt(distance, splat(0))), splat(sampleRate));
  const long = f32x4.ge(frames, splat(1));
  if (m.curve == P.CURVE_LINEAR) {
    const step = div(splat(1), higher(frames, splat(1)));
    distance = sub(distance, clamp(distance, f32x4.neg(step), step));
  } else {
    distance = mul(distance, exp2(div(splat(LOG2_REST), higher(frames, splat(1)))));
    distance = v128.and(distance, f32x4.gt(f32x4.abs(distance), splat(1e-7)));
  }
  distance = v128.and(distance, long);
  if (m.gate.isCabled) distance = v128.and(distance, isOn(gate));
  state.distance = distance;
  return sub(input, distance);
}
