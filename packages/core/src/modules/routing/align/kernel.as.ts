// A path held back by whole frames. It is silent at first; fades wait for it.
import * as P from "../../../generated/align.as";
import { maskOf, slotOf } from "../../../kernels/delays.as";
import { splat } from "../../../kernels/simd.as";
import { time } from "../../../kernels/time.as";

const LONG: u32 = 0x40000000;

export function process(m: P.Module, frame: u32, frames: u32): void {
  const input = m.in,
    late = <u32>m.samples,
    groupBytes = m.auxBytes / m.groups,
    mask = maskOf(groupBytes),
    now = time + frame;
  let resting = true;
  for (let g: u32 = 0, groups = m.groups; g < groups; ++g) {
    const state = m.state(g),
      ring = m.aux + <usize>g * groupBytes,
      silent = input.isConstant(g) && !v128.any_true(v128.load(input.row(g, frame)));
    const quiet = load<u32>(state.quietAt);
    if (silent && quiet > mask) {
      m.outOut.fill(g, frame, frames, splat(0));
      continue;
    }
    resting = false;
    store<u32>(state.quietAt, silent ? min<u32>(quiet + frames, LONG) : 0);
    for (let f: u32 = 0; f < frames; ++f) v128.store(slotOf(ring, mask, now + f), input.at(g, frame + f));
    for (let f: u32 = 0; f < frames; ++f)
      m.outOut.put(g, frame + f, v128.load(slotOf(ring, mask, now + f - late)));
  }
  if (resting) m.rest();
}
