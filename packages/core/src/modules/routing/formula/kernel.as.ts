import * as P from "../../../generated/formula.as";
import { runFormula } from "../../../kernels/vm.as";

export function process(instance: usize, frame: u32, frames: u32): void {
  runFormula(instance, frame, frames, P.OUT_X, P.OUT_Y, P.STATE_PREVIOUS);
}
