import * as P from "../../../generated/chance.as";
import { isOn, rising, unmoved } from "../../../kernels/edges.as";
import { choiceOf, laneSeedsOf, put, read, stateOf } from "../../../kernels/instance.as";
import { mixBits, splat } from "../../../kernels/simd.as";

export function idle(instance: usize, g: u32): bool {
  return unmoved(stateOf(instance, g) + P.STATE_BEFORE, read(instance, P.IN_IN, g, 0));
}

export function compute(instance: usize, g: u32, f: u32): void {
  const state = stateOf(instance, g),
    gate = read(instance, P.IN_IN, g, f);
  const rises = rising(state + P.STATE_BEFORE, gate);
  if (v128.any_true(rises)) {
    const count = i32x4.sub(v128.load(state + P.STATE_COUNT), rises);
    v128.store(state + P.STATE_COUNT, count);
    const bits = mixBits(v128.xor(laneSeedsOf(instance, g), i32x4.mul(count, i32x4.splat(0x9e3779b1))));
    // Uniform within 0…1, from 24 bits.
    const thrown = f32x4.mul(f32x4.convert_i32x4_s(i32x4.shr_u(bits, 8)), splat(5.9604644775390625e-8));
    const lucky = f32x4.lt(thrown, read(instance, P.PARAM_PROBABILITY, g, f));
    const before = v128.load(state + P.STATE_TOHIT);
    const now = choiceOf(instance, P.SET_MODE) == P.MODE_TOGGLE ? v128.xor(before, lucky) : lucky;
    v128.store(state + P.STATE_TOHIT, v128.bitselect(now, before, rises));
  }
  const on = v128.and(isOn(gate), splat(1)),
    toHit = v128.load(state + P.STATE_TOHIT);
  put(instance, P.OUT_HIT, g, f, v128.and(on, toHit));
  put(instance, P.OUT_MISS, g, f, v128.andnot(on, toHit));
}
