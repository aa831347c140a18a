import * as P from "../../../generated/map.as";
import { curveOf } from "../../../kernels/curves.as";
import { add, clamp, div, madd, select, splat, sub } from "../../../kernels/simd.as";

export function compute(m: P.Module, g: u32, f: u32): void {
  const low = m.inLow.at(g, f),
    high = m.inHigh.at(g, f);
  const outLow = m.outLow.at(g, f),
    outHigh = m.outHigh.at(g, f);
  const width = sub(high, low);
  const has = f32x4.ne(width, splat(0));
  // Ends that meet are a step.
  const x = select(
    div(sub(m.in.at(g, f), low), select(width, splat(1), has)),
    v128.and(f32x4.ge(m.in.at(g, f), low), splat(1)),
    has,
  );
  const inside = clamp(x, splat(0), splat(1));
  const bent = curveOf(inside, m.curve.at(g, f));
  const beyond = select(splat(0), sub(x, inside), f32x4.gt(m.clamp.at(g, f), splat(0.5)));
  m.outOut.put(g, f, madd(add(bent, beyond), sub(outHigh, outLow), outLow));
}
