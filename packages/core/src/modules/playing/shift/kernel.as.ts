import * as P from "../../../generated/shift.as";
import { add, div, splat } from "../../../kernels/simd.as";

export function compute(octaves: v128, semitones: v128, cents: v128, input: v128): v128 {
  const interval = add(add(octaves, div(semitones, splat(12))), div(cents, splat(1200)));
  return add(input, interval);
}
