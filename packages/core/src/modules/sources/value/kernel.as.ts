import * as P from "../../../generated/value.as";
import { div, splat, sub } from "../../../kernels/simd.as";

export function compute(m: P.Module, g: u32, f: u32): void {
  const x = m.value.at(g, f);
  const unit = m.unit;
  // Division, not a product with 1/12: 7 semitones are the float nearest to 7/12.
  const y =
    unit == P.UNIT_SEMITONES
      ? div(x, splat(12))
      : unit == P.UNIT_NOTE
        ? div(sub(x, splat(60)), splat(12))
        : x;
  m.outOut.put(g, f, y);
}
