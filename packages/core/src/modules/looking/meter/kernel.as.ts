import * as P from "../../../generated/meter.as";

export function compute(input: v128): v128 {
  return input;
}
