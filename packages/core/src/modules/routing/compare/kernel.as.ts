import * as P from "../../../generated/compare.as";
import { mul, splat, sub } from "../../../kernels/simd.as";


@inline function other(m: P.Module, g: u32, f: u32): v128 {
  return m.b.isCabled ? m.b.at(g, f) : m.level.at(g, f);
}

/** On when x is past +half, off when it is not past -half, else as before. */
@inline function past(x: v128, half: v128, before: v128): v128 {
  return v128.or(f32x4.gt(x, half), v128.and(before, f32x4.gt(x, f32x4.neg(half))));
}

export function idle(m: P.Module, g: u32, state: P.State, a: v128, hysteresis: v128): bool {
  const x = sub(a, other(m, g, 0)),
    half = mul(hysteresis, splat(0.5));
  const above = state.above,
    below = state.below;
  return !v128.any_true(
    v128.or(v128.xor(past(x, half, above), above), v128.xor(past(f32x4.neg(x), half, below), below)),
  );
}

export function compute(
  m: P.Module,
  g: u32,
  f: u32,
  state: P.State,
  out: P.Outputs,
  a: v128,
  hysteresis: v128,
): void {
  const x = sub(a, other(m, g, f)),
    half = mul(hysteresis, splat(0.5));
  const above = past(x, half, state.above),
    below = past(f32x4.neg(x), half, state.below);
  state.above = above;
  state.below = below;
  out.above = v128.and(above, splat(1));
  out.below = v128.and(below, splat(1));
}
