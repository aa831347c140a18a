import * as P from "../../../generated/unitdelay.as";
import { reportDelay } from "../../../kernels/executor.as";
import { groupsOf, pointerTo, signalAt, stateOf, writeTo } from "../../../kernels/instance.as";

export function readLeast(instance: usize, frame: u32, frames: u32): void {
  reportDelay(1);
}

export function read(instance: usize, frame: u32, frames: u32): void {
  const out = signalAt(instance, P.OUT_OUT);
  for (let g: u32 = 0, groups = groupsOf(instance); g < groups; ++g)
    v128.store(writeTo(out, g, frame), v128.load(stateOf(instance, g) + P.STATE_LAST));
}

export function write(instance: usize, frame: u32, frames: u32): void {
  const input = signalAt(instance, P.IN_IN);
  for (let g: u32 = 0, groups = groupsOf(instance); g < groups; ++g)
    v128.store(stateOf(instance, g) + P.STATE_LAST, v128.load(pointerTo(input, g, frame)));
}
