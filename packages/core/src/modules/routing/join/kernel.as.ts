import * as P from "../../../generated/join.as";

export function process(m: P.Module, frame: u32, frames: u32): void {
  const left = m.left,
    right = m.right,
    out = m.outOut;
  if (!out.isWanted) return;
  const outs = out.groups;
  for (let g: u32 = 0, groups = m.groups; g < groups; ++g) {
    let a = left.row(g, frame),
      b = right.row(g, frame);
    const as = left.step(g),
      bs = right.step(g);
    const low = g << 1,
      hasHigh = low + 1 < outs;
    if ((as | bs) == 0) {
      const x = v128.load(a),
        y = v128.load(b);
      out.fill(low, frame, frames, v128.shuffle<i32>(x, y, 0, 4, 1, 5));
      if (hasHigh) out.fill(low + 1, frame, frames, v128.shuffle<i32>(x, y, 2, 6, 3, 7));
      continue;
    }
    const p = out.write(low, frame),
      q: usize = hasHigh ? out.write(low + 1, frame) : 0;
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
