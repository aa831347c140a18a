import * as P from "../../../generated/shift.as";
import { put, read } from "../../../kernels/instance.as";
import { add, div, splat } from "../../../kernels/simd.as";

export function compute(instance: usize, g: u32, f: u32): void {
  const interval = add(
    add(read(instance, P.PARAM_OCTAVES, g, f), div(read(instance, P.PARAM_SEMITONES, g, f), splat(12))),
    div(read(instance, P.PARAM_CENTS, g, f), splat(1200)),
  );
  put(instance, P.OUT_OUT, g, f, add(read(instance, P.IN_IN, g, f), interval));
}
