import * as P from "../../../generated/unitdelay.as";
import { DONE, FIT, GROUP_BYTES, UNFIT } from "../../../kernels/abi";

export function readLeast(m: P.Module, frame: u32, frames: u32): u32 {
  return 1;
}

export function read(m: P.Module, frame: u32, frames: u32): void {
  const out = m.outOut;
  for (let g: u32 = 0, groups = m.groups; g < groups; ++g) v128.store(out.write(g, frame), m.state(g).last);
}
/** Only the first frame comes from before this segment; `writeFrame` writes the next one ahead. */
export function readReady(m: P.Module, frames: u32): u32 {
  if (!m.in.isUniform(m.groups)) return UNFIT;
  read(m, 0, 1);
  return DONE;
}

export function write(m: P.Module, frame: u32, frames: u32): void {
  const input = m.in;
  for (let g: u32 = 0, groups = m.groups; g < groups; ++g) m.state(g).last = input.at(g, frame);
}
export function writeReady(m: P.Module, frames: u32): u32 {
  m.state(0).lastFrame = i32x4.splat(<i32>frames - 1);
  return m.in.isUniform(m.groups) ? FIT : UNFIT;
}
export function writeFrame(m: P.Module, f: u32): void {
  const input = m.in,
    stride = input.stride,
    groups = m.groups,
    isLast = f == <u32>i32x4.extract_lane(m.state(0).lastFrame, 0);
  let p = input.row(0, f),
    next = m.outOut.start(0) + ((f + 1) << 4),
    state = m.stateAt(0);
  for (let g: u32 = 0; g < groups; ++g) {
    v128.store(isLast ? changetype<P.State>(state).lastAt : next, v128.load(p));
    p += stride;
    next += GROUP_BYTES;
    state += P.STATE_BYTES;
  }
}
