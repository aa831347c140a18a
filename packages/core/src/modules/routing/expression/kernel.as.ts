import * as P from "../../../generated/expression.as";
import { runFormula } from "../../../kernels/vm.as";

export function process(m: P.Module, frame: u32, frames: u32): void {
  runFormula(m, frame, frames, m.outX, m.outX);
}
