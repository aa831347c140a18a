import * as P from "../../../generated/value.as";
import { div, splat, sub } from "../../../kernels/simd.as";

export function compute(m: P.Module, value: v128): v128 {
  const x = value;
  const unit = m.unit;
  // Division, not a product with 1/12: 7 semitones are the float nearest to 7/12.
  const y =
    unit == P.UNIT_SEMITONES
      ? div(x, splat(12))
      : unit == P.UNIT_NOTE
        ? div(sub(x, splat(60)), splat(12))
        : x;
  return y;
}
