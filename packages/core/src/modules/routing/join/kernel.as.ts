import * as P from "../../../generated/join.as";
import { SIGNAL_GROUPS } from "../../../kernels/abi";
import {
  groupsOf,
  isWanted,
  pointerTo,
  signalAt,
  strideOf,
  writeConstant,
  writeTo,
} from "../../../kernels/instance.as";

export function process(instance: usize, frame: u32, frames: u32): void {
  const left = signalAt(instance, P.IN_LEFT),
    right = signalAt(instance, P.IN_RIGHT),
    out = signalAt(instance, P.OUT_OUT);
  if (!isWanted(out)) return;
  const outs = load<u32>(out, SIGNAL_GROUPS);
  for (let g: u32 = 0, groups = groupsOf(instance); g < groups; ++g) {
    let a = pointerTo(left, g, frame),
      b = pointerTo(right, g, frame);
    const as = strideOf(left, g),
      bs = strideOf(right, g);
    const low = g << 1,
      hasHigh = low + 1 < outs;
    if ((as | bs) == 0) {
      const x = v128.load(a),
        y = v128.load(b);
      writeConstant(out, low, frame, frames, v128.shuffle<i32>(x, y, 0, 4, 1, 5));
      if (hasHigh) writeConstant(out, low + 1, frame, frames, v128.shuffle<i32>(x, y, 2, 6, 3, 7));
      continue;
    }
    const p = writeTo(out, low, frame),
      q: usize = hasHigh ? writeTo(out, low + 1, frame) : 0;
    for (let f: u32 = 0; f < frames; ++f) {
      const x = v128.load(a),
        y = v128.load(b);
      v128.store(p + (f << 4), v128.shuffle<i32>(x, y, 0, 4, 1, 5));
      if (q) v128.store(q + (f << 4), v128.shuffle<i32>(x, y, 2, 6, 3, 7));
      a += as;
      b += bs;
    }
  }
}
