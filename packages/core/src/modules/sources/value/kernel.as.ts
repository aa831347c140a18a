import * as P from "../../../generated/value.as";
import { choiceOf, put, read } from "../../../kernels/instance.as";
import { div, splat, sub } from "../../../kernels/simd.as";

export function compute(instance: usize, g: u32, f: u32): void {
  const x = read(instance, P.PARAM_VALUE, g, f);
  const unit = choiceOf(instance, P.SET_UNIT);
  // Division, not a product with 1/12: 7 semitones are the float nearest to 7/12.
  const y =
    unit == P.UNIT_SEMITONES
      ? div(x, splat(12))
      : unit == P.UNIT_NOTE
        ? div(sub(x, splat(60)), splat(12))
        : x;
  put(instance, P.OUT_OUT, g, f, y);
}
