import * as P from "../../../generated/split.as";
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
import { splat } from "../../../kernels/simd.as";

export function process(instance: usize, frame: u32, frames: u32): void {
  const input = signalAt(instance, P.IN_IN),
    left = signalAt(instance, P.OUT_LEFT),
    right = signalAt(instance, P.OUT_RIGHT);
  const groups = groupsOf(instance);
  for (let o: u32 = 0, n = load<u32>(left, SIGNAL_GROUPS); o < n; ++o) {
    const low = o << 1,
      hasHigh = low + 1 < groups,
      high = hasHigh ? low + 1 : low;
    let a = pointerTo(input, low, frame),
      b = pointerTo(input, high, frame);
    const as = strideOf(input, low),
      bs = strideOf(input, high);
    if ((as | bs) == 0) {
      const x = v128.load(a),
        y = hasHigh ? v128.load(b) : splat(0);
      writeConstant(left, o, frame, frames, v128.shuffle<i32>(x, y, 0, 2, 4, 6));
      writeConstant(right, o, frame, frames, v128.shuffle<i32>(x, y, 1, 3, 5, 7));
      continue;
    }
    const l: usize = isWanted(left) ? writeTo(left, o, frame) : 0,
      r: usize = isWanted(right) ? writeTo(right, o, frame) : 0;
    for (let f: u32 = 0; f < frames; ++f) {
      const x = v128.load(a),
        y = hasHigh ? v128.load(b) : splat(0);
      if (l) v128.store(l + (f << 4), v128.shuffle<i32>(x, y, 0, 2, 4, 6));
      if (r) v128.store(r + (f << 4), v128.shuffle<i32>(x, y, 1, 3, 5, 7));
      a += as;
      b += bs;
    }
  }
}
