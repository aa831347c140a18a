import * as P from "../../../generated/spectrum.as";

export function compute(input: v128): v128 {
  return input;
}
