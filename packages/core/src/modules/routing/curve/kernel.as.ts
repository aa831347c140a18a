import * as P from "../../../generated/curve.as";
import { put, read, tableOf } from "../../../kernels/instance.as";
import { lookUpPoints } from "../../../kernels/points.as";
import { clamp, madd, splat } from "../../../kernels/simd.as";

const RESOLUTION: f32 = 1024;

export function compute(instance: usize, g: u32, f: u32): void {
  const x = clamp(
    madd(read(instance, P.IN_IN, g, f), splat(RESOLUTION / 2), splat(RESOLUTION / 2)),
    splat(0),
    splat(RESOLUTION),
  );
  put(instance, P.OUT_OUT, g, f, lookUpPoints(tableOf(instance), x));
}
