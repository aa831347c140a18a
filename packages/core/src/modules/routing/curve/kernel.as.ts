import * as P from "../../../generated/curve.as";
import { lookUpPoints } from "../../../kernels/points.as";
import { clamp, madd, splat } from "../../../kernels/simd.as";

const RESOLUTION: f32 = 1024;

export function compute(m: P.Module, g: u32, f: u32): void {
  const x = clamp(
    madd(m.in.at(g, f), splat(RESOLUTION / 2), splat(RESOLUTION / 2)),
    splat(0),
    splat(RESOLUTION),
  );
  m.outOut.put(g, f, lookUpPoints(m.table, x));
}
