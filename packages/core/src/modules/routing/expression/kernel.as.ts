import * as P from "../../../generated/expression.as";
import { runFormula } from "../../../kernels/vm.as";

export function process(instance: usize, frame: u32, frames: u32): void {
  runFormula(instance, frame, frames, P.OUT_X, 0, P.STATE_PREVIOUS);
}
