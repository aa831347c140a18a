import * as P from "../../../generated/copy.as";
import { put, read } from "../../../kernels/instance.as";

export function compute(instance: usize, g: u32, f: u32): void {
  put(instance, P.OUT_OUT, g, f, read(instance, P.IN_IN, g, f));
}
