import * as P from "../../../generated/scope.as";

export function compute(input: v128): v128 {
  return input;
}
