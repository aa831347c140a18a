import * as P from "../../../generated/shift.as";
import { add, div, splat } from "../../../kernels/simd.as";

export function compute(m: P.Module, g: u32, f: u32): void {
  const interval = add(
    add(m.octaves.at(g, f), div(m.semitones.at(g, f), splat(12))),
    div(m.cents.at(g, f), splat(1200)),
  );
  m.outOut.put(g, f, add(m.in.at(g, f), interval));
}
