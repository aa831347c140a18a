import * as P from "../../../generated/logic.as";
import { isOn, rising, unmoved } from "../../../kernels/edges.as";
import { splat } from "../../../kernels/simd.as";

export function idle(m: P.Module, g: u32): bool {
  return unmoved(m.state(g).beforeAt, m.a.at(g, 0));
}

export function compute(m: P.Module, g: u32, f: u32): void {
  const state = m.state(g),
    gate = m.a.at(g, f);
  const a = isOn(gate),
    b = isOn(m.b.at(g, f)),
    one = splat(1);
  const flipped = v128.xor(state.flipped, rising(state.beforeAt, gate));
  state.flipped = flipped;
  m.outAnd.put(g, f, v128.and(v128.and(a, b), one));
  m.outOr.put(g, f, v128.and(v128.or(a, b), one));
  m.outXor.put(g, f, v128.and(v128.xor(a, b), one));
  m.outNot.put(g, f, v128.andnot(one, a));
  m.outFlip.put(g, f, v128.and(flipped, one));
}
