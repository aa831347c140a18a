import * as P from "../../../generated/drift.as";
import { stepPhase, unsignedPhase } from "../../../kernels/phase.as";
import { add, bipolar, madd, mixBits, mul, splat, sub } from "../../../kernels/simd.as";

/** The second layer runs at the golden ratio of the first and half as strong: the sum has no period. */
const SECOND_RATE: f32 = 1.618034,
  SECOND_SHARE: f32 = 0.33333333,
  FIRST_SHARE: f32 = 0.66666667;

export function idle(): bool {
  return false;
}


@inline function valueAt(index: v128, seeds: v128): v128 {
  return bipolar(mixBits(v128.xor(i32x4.mul(index, i32x4.splat(0x9e3779b9)), seeds)));
}

/** One layer: between the random values of this step and the next, straight or (smooth 1) as a quintic S. Moves on. */
function layer(at: usize, seeds: v128, rate: v128, smooth: v128): v128 {
  const high = v128.load(at),
    index = v128.load(at, 32);
  const x = unsignedPhase(high);
  const s = mul(mul(mul(x, x), x), madd(madd(x, splat(6), splat(-15)), x, splat(10)));
  const t = madd(sub(s, x), smooth, x);
  const a = valueAt(index, seeds),
    b = valueAt(i32x4.add(index, i32x4.splat(1)), seeds);
  stepPhase(at, high, v128.load(at, 16), rate);
  v128.store(at, i32x4.sub(index, i32x4.lt_u(v128.load(at), high)), 32);
  return madd(sub(b, a), t, a);
}

export function compute(
  m: P.Module,
  g: u32,
  state: P.State,
  out: P.Outputs,
  rate: v128,
  smooth: v128,
  depth: v128,
): void {
  const seeds = m.drawSeeds(g);
  const one = layer(state.highAt, seeds, rate, smooth);
  const two = layer(
    state.high2At,
    v128.xor(seeds, i32x4.splat(0x5bd1e995)),
    mul(rate, splat(SECOND_RATE)),
    smooth,
  );
  const y = mul(add(mul(one, splat(FIRST_SHARE)), mul(two, splat(SECOND_SHARE))), depth);
  out.out = y;
  out.opposite = f32x4.neg(y);
}
