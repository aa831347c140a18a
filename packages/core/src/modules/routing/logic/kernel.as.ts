import * as P from "../../../generated/logic.as";
import { isOn, rising, unmoved } from "../../../kernels/edges.as";
import { put, read, stateOf } from "../../../kernels/instance.as";
import { splat } from "../../../kernels/simd.as";

export function idle(instance: usize, g: u32): bool {
  return unmoved(stateOf(instance, g) + P.STATE_BEFORE, read(instance, P.IN_A, g, 0));
}

export function compute(instance: usize, g: u32, f: u32): void {
  const state = stateOf(instance, g),
    gate = read(instance, P.IN_A, g, f);
  const a = isOn(gate),
    b = isOn(read(instance, P.IN_B, g, f)),
    one = splat(1);
  const flipped = v128.xor(v128.load(state + P.STATE_FLIPPED), rising(state + P.STATE_BEFORE, gate));
  v128.store(state + P.STATE_FLIPPED, flipped);
  put(instance, P.OUT_AND, g, f, v128.and(v128.and(a, b), one));
  put(instance, P.OUT_OR, g, f, v128.and(v128.or(a, b), one));
  put(instance, P.OUT_XOR, g, f, v128.and(v128.xor(a, b), one));
  put(instance, P.OUT_NOT, g, f, v128.andnot(one, a));
  put(instance, P.OUT_FLIP, g, f, v128.and(flipped, one));
}
