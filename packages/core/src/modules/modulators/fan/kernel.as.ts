import * as P from "../../../generated/fan.as";
import { isZero } from "../../../kernels/edges.as";
import { sampleRate } from "../../../kernels/time.as";
import { add, bipolar, div, exp2, higher, madd, mixBits, mul, splat, sub } from "../../../kernels/simd.as";

const OUTPUTS: i32 = 8;
const LOG2_REST: f32 = -6.6438562;

/** Place of output n within −1…1. */
function placeOf(m: P.Module, g: u32, n: i32): v128 {
  const pattern = m.pattern;
  const x = <f32>n / 7;
  let place =
    pattern == P.PATTERN_RANDOM
      ? bipolar(mixBits(i32x4.add(m.laneSeeds(g), i32x4.splat((n + 1) * 0x3c6ef372))))
      : splat(pattern == P.PATTERN_SKEWED ? 2 * x * x - 1 : 2 * x - 1);
  if (m.polarity == P.POLARITY_UNIPOLAR) place = madd(place, splat(0.5), splat(0.5));
  return place;
}


@inline function goalOf(m: P.Module, g: u32, f: u32, n: i32): v128 {
  return madd(m.width.at(g, f), placeOf(m, g, n), add(m.centre.at(g, f), m.in.at(g, f)));
}

export function idle(m: P.Module, g: u32, state: P.State): bool {
  if (isZero(state.startedAt)) return false;
  for (let n = 0; n < OUTPUTS; ++n)
    if (v128.any_true(f32x4.ne(v128.load(state.valuesAt + (n << 4)), goalOf(m, g, 0, n)))) return false;
  return true;
}

export function compute(m: P.Module, g: u32, f: u32, state: P.State, smooth: v128): void {
  const frames = mul(smooth, splat(sampleRate));
  const slow = f32x4.ge(frames, splat(1));
  const keep =
    isZero(state.startedAt) || !v128.any_true(slow)
      ? splat(0)
      : v128.and(exp2(div(splat(LOG2_REST), higher(frames, splat(1)))), slow);
  state.started = i32x4.splat(-1);
  for (let n = 0; n < OUTPUTS; ++n) {
    const goal = goalOf(m, g, f, n),
      at = state.valuesAt + (n << 4);
    let distance = mul(sub(v128.load(at), goal), keep);
    distance = v128.and(distance, f32x4.gt(f32x4.abs(distance), splat(1e-6)));
    const y = add(goal, distance);
    v128.store(at, y);
    m.signal(P.OUT_OUT1 + (n << 2)).put(g, f, y);
  }
}
