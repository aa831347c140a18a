import * as P from "../../../generated/compare.as";
import { isCabled, put, read, signalAt, stateOf } from "../../../kernels/instance.as";
import { mul, splat, sub } from "../../../kernels/simd.as";

// @ts-ignore: decorator
@inline function other(instance: usize, g: u32, f: u32): v128 {
  return isCabled(signalAt(instance, P.IN_B))
    ? read(instance, P.IN_B, g, f)
    : read(instance, P.PARAM_LEVEL, g, f);
}

/** On when x is past +half, off when it is not past -half, else as before. */
// @ts-ignore: decorator
@inline function past(x: v128, half: v128, before: v128): v128 {
  return v128.or(f32x4.gt(x, half), v128.and(before, f32x4.gt(x, f32x4.neg(half))));
}

export function idle(instance: usize, g: u32): bool {
  const state = stateOf(instance, g);
  const x = sub(read(instance, P.IN_A, g, 0), other(instance, g, 0)),
    half = mul(read(instance, P.PARAM_HYSTERESIS, g, 0), splat(0.5));
  const above = v128.load(state + P.STATE_ABOVE),
    below = v128.load(state + P.STATE_BELOW);
  return !v128.any_true(
    v128.or(v128.xor(past(x, half, above), above), v128.xor(past(f32x4.neg(x), half, below), below)),
  );
}

export function compute(instance: usize, g: u32, f: u32): void {
  const state = stateOf(instance, g);
  const x = sub(read(instance, P.IN_A, g, f), other(instance, g, f)),
    half = mul(read(instance, P.PARAM_HYSTERESIS, g, f), splat(0.5));
  const above = past(x, half, v128.load(state + P.STATE_ABOVE)),
    below = past(f32x4.neg(x), half, v128.load(state + P.STATE_BELOW));
  v128.store(state + P.STATE_ABOVE, above);
  v128.store(state + P.STATE_BELOW, below);
  put(instance, P.OUT_ABOVE, g, f, v128.and(above, splat(1)));
  put(instance, P.OUT_BELOW, g, f, v128.and(below, splat(1)));
}
