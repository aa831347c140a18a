import * as P from "../../../generated/split.as";
import { splat } from "../../../kernels/simd.as";

export function process(m: P.Module, frame: u32, frames: u32): void {
  const input = m.in,
    left = m.outLeft,
    right = m.outRight;
  const groups = m.groups;
  for (let o: u32 = 0, n = left.groups; o < n; ++o) {
    const low = o << 1,
      hasHigh = low + 1 < groups,
      high = hasHigh ? low + 1 : low;
    let a = input.row(low, frame),
      b = input.row(high, frame);
    const as = input.step(low),
      bs = input.step(high);
    if ((as | bs) == 0) {
      const x = v128.load(a),
        y = hasHigh ? v128.load(b) : splat(0);
      left.fill(o, frame, frames, v128.shuffle<i32>(x, y, 0, 2, 4, 6));
      right.fill(o, frame, frames, v128.shuffle<i32>(x, y, 1, 3, 5, 7));
      continue;
    }
    const l: usize = left.isWanted ? left.write(o, frame) : 0,
      r: usize = right.isWanted ? right.write(o, frame) : 0;
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
