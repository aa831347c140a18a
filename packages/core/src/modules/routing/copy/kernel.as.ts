import * as P from "../../../generated/copy.as";

export function compute(input: v128): v128 {
  return input;
}
