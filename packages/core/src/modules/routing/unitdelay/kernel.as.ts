import * as P from "../../../generated/unitdelay.as";
import { reportDelay } from "../../../kernels/executor.as";

export function readLeast(m: P.Module, frame: u32, frames: u32): void {
  reportDelay(1);
}

export function read(m: P.Module, frame: u32, frames: u32): void {
  const out = m.outOut;
  for (let g: u32 = 0, groups = m.groups; g < groups; ++g) v128.store(out.write(g, frame), m.state(g).last);
}

export function write(m: P.Module, frame: u32, frames: u32): void {
  const input = m.in;
  for (let g: u32 = 0, groups = m.groups; g < groups; ++g) m.state(g).last = v128.load(input.row(g, frame));
}
