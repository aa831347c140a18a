import * as P from "../../../generated/chance.as";
import { isOn, rising, unmoved } from "../../../kernels/edges.as";
import { mixBits, splat } from "../../../kernels/simd.as";

export function idle(state: P.State, input: v128): bool {
  return unmoved(state.beforeAt, input);
}

export function compute(
  m: P.Module,
  g: u32,
  state: P.State,
  out: P.Outputs,
  input: v128,
  probability: v128,
): void {
  const gate = input;
  const rises = rising(state.beforeAt, gate);
  if (v128.any_true(rises)) {
    const count = i32x4.sub(state.count, rises);
    state.count = count;
    const bits = mixBits(v128.xor(m.laneSeeds(g), i32x4.mul(count, i32x4.splat(0x9e3779b1))));
    // Uniform within 0…1, from 24 bits.
    const thrown = f32x4.mul(f32x4.convert_i32x4_s(i32x4.shr_u(bits, 8)), splat(5.9604644775390625e-8));
    const lucky = f32x4.lt(thrown, probability);
    const before = state.toHit;
    const now = m.mode == P.MODE_TOGGLE ? v128.xor(before, lucky) : lucky;
    state.toHit = v128.bitselect(now, before, rises);
  }
  const on = v128.and(isOn(gate), splat(1)),
    toHit = state.toHit;
  out.hit = v128.and(on, toHit);
  out.miss = v128.andnot(on, toHit);
}
