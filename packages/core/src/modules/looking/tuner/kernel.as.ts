import * as P from "../../../generated/tuner.as";

export function compute(input: v128): v128 {
  return input;
}
