import * as P from "../../../generated/fan.as";
import { isZero } from "../../../kernels/edges.as";
import { choiceOf, laneSeedsOf, put, read, sampleRate, stateOf } from "../../../kernels/instance.as";
import { add, bipolar, div, exp2, higher, madd, mixBits, mul, splat, sub } from "../../../kernels/simd.as";

const OUTPUTS: i32 = 8;
const LOG2_REST: f32 = -6.6438562;

/** Place of output n within −1…1. */
function placeOf(instance: usize, g: u32, n: i32): v128 {
  const pattern = choiceOf(instance, P.SET_PATTERN);
  const x = <f32>n / 7;
  let place =
    pattern == P.PATTERN_RANDOM
      ? bipolar(mixBits(i32x4.add(laneSeedsOf(instance, g), i32x4.splat((n + 1) * 0x3c6ef372))))
      : splat(pattern == P.PATTERN_SKEWED ? 2 * x * x - 1 : 2 * x - 1);
  if (choiceOf(instance, P.SET_POLARITY) == P.POLARITY_UNIPOLAR) place = madd(place, splat(0.5), splat(0.5));
  return place;
}

// @ts-ignore: decorator
@inline function goalOf(instance: usize, g: u32, f: u32, n: i32): v128 {
  return madd(
    read(instance, P.PARAM_WIDTH, g, f),
    placeOf(instance, g, n),
    add(read(instance, P.PARAM_CENTRE, g, f), read(instance, P.IN_IN, g, f)),
  );
}

export function idle(instance: usize, g: u32): bool {
  const state = stateOf(instance, g);
  if (isZero(state + P.STATE_STARTED)) return false;
  for (let n = 0; n < OUTPUTS; ++n)
    if (v128.any_true(f32x4.ne(v128.load(state + P.STATE_VALUES + (n << 4)), goalOf(instance, g, 0, n))))
      return false;
  return true;
}

export function compute(instance: usize, g: u32, f: u32): void {
  const state = stateOf(instance, g),
    frames = mul(read(instance, P.PARAM_SMOOTH, g, f), splat(sampleRate));
  const slow = f32x4.ge(frames, splat(1));
  const keep =
    isZero(state + P.STATE_STARTED) || !v128.any_true(slow)
      ? splat(0)
      : v128.and(exp2(div(splat(LOG2_REST), higher(frames, splat(1)))), slow);
  v128.store(state + P.STATE_STARTED, i32x4.splat(-1));
  for (let n = 0; n < OUTPUTS; ++n) {
    const goal = goalOf(instance, g, f, n),
      at = state + P.STATE_VALUES + (n << 4);
    let distance = mul(sub(v128.load(at), goal), keep);
    distance = v128.and(distance, f32x4.gt(f32x4.abs(distance), splat(1e-6)));
    const y = add(goal, distance);
    v128.store(at, y);
    put(instance, P.OUT_OUT1 + (n << 2), g, f, y);
  }
}
