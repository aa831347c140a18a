import * as P from "../../../generated/unstack.as";
import { splat } from "../../../kernels/simd.as";

const OUTPUTS: u32 = 8;

/** Both sides of a voice, in the first lanes. */
@inline function lanesAt(p: usize, sides: u32): v128 {
  return sides == 2 ? v128.load64_splat(p) : v128.load32_splat(p);
}

export function process(m: P.Module, frame: u32, frames: u32): void {
  const input = m.in,
    sides = m.sideCount,
    voices = m.voiceCount;
  for (let n: u32 = 0; n < OUTPUTS; ++n) {
    const out = m.signal(P.OUT_OUT1 + (n << 2));
    if (!out.isWanted) continue;
    const lane = n * sides,
      group = lane >> 2;
    if (n >= voices) {
      out.fill(0, frame, frames, splat(0));
      continue;
    }
    let p = input.row(group, frame) + ((lane & 3) << 2);
    if (input.isConstant(group)) {
      out.fill(0, frame, frames, lanesAt(p, sides));
      continue;
    }
    const step = input.step(group);
    for (let q = out.write(0, frame), end = q + (frames << 4); q < end; q += 16, p += step)
      v128.store(q, lanesAt(p, sides));
  }
}
