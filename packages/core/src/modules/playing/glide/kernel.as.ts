import * as P from "../../../generated/glide.as";
import { isOn, isZero } from "../../../kernels/edges.as";
import { choiceOf, isCabled, put, read, sampleRate, signalAt, stateOf } from "../../../kernels/instance.as";
import { add, clamp, div, exp2, higher, mul, select, splat, sub } from "../../../kernels/simd.as";

/** log2 of 1 %. */
const LOG2_REST: f32 = -6.6438562;

export function idle(instance: usize, g: u32): bool {
  const state = stateOf(instance, g);
  return (
    isZero(state + P.STATE_DISTANCE) &&
    !isZero(state + P.STATE_STARTED) &&
    !v128.any_true(f32x4.ne(v128.load(state + P.STATE_BEFORE), read(instance, P.IN_IN, g, 0)))
  );
}

export function compute(instance: usize, g: u32, f: u32): void {
  const state = stateOf(instance, g),
    x = read(instance, P.IN_IN, g, f);
  // What it still lacks of the goal is kept, not the value: it ends exactly there.
  let distance = v128.load(state + P.STATE_DISTANCE);
  if (isZero(state + P.STATE_STARTED)) v128.store(state + P.STATE_STARTED, i32x4.splat(-1));
  else distance = add(distance, sub(x, v128.load(state + P.STATE_BEFORE)));
  v128.store(state + P.STATE_BEFORE, x);
  const rise = read(instance, P.PARAM_RISE, g, f);
  const fall = select(
    rise,
    read(instance, P.PARAM_FALL, g, f),
    f32x4.gt(read(instance, P.PARAM_LINK, g, f), splat(0.5)),
  );
  const frames = mul(select(rise, fall, f32x4.gt(distance, splat(0))), splat(sampleRate));
  const long = f32x4.ge(frames, splat(1));
  if (choiceOf(instance, P.SET_CURVE) == P.CURVE_LINEAR) {
    const step = div(splat(1), higher(frames, splat(1)));
    distance = sub(distance, clamp(distance, f32x4.neg(step), step));
  } else {
    distance = mul(distance, exp2(div(splat(LOG2_REST), higher(frames, splat(1)))));
    distance = v128.and(distance, f32x4.gt(f32x4.abs(distance), splat(1e-7)));
  }
  distance = v128.and(distance, long);
  if (isCabled(signalAt(instance, P.IN_GATE)))
    distance = v128.and(distance, isOn(read(instance, P.IN_GATE, g, f)));
  v128.store(state + P.STATE_DISTANCE, distance);
  put(instance, P.OUT_OUT, g, f, sub(x, distance));
}
