import * as P from "../../../generated/unstack.as";
import {
  isConstant,
  isWanted,
  pointerTo,
  sidesOf,
  signalAt,
  strideOf,
  voicesOf,
  writeConstant,
  writeTo,
} from "../../../kernels/instance.as";
import { splat } from "../../../kernels/simd.as";

const OUTPUTS: u32 = 8;

/** Both sides of a voice, in the first lanes. */
// @ts-ignore: decorator
@inline function lanesAt(p: usize, sides: u32): v128 {
  return sides == 2 ? v128.load64_splat(p) : v128.load32_splat(p);
}

export function process(instance: usize, frame: u32, frames: u32): void {
  const input = signalAt(instance, P.IN_IN),
    sides = sidesOf(instance),
    voices = voicesOf(instance);
  for (let n: u32 = 0; n < OUTPUTS; ++n) {
    const out = signalAt(instance, P.OUT_OUT1 + (n << 2));
    if (!isWanted(out)) continue;
    const lane = n * sides,
      group = lane >> 2;
    if (n >= voices) {
      writeConstant(out, 0, frame, frames, splat(0));
      continue;
    }
    let p = pointerTo(input, group, frame) + ((lane & 3) << 2);
    if (isConstant(input, group)) {
      writeConstant(out, 0, frame, frames, lanesAt(p, sides));
      continue;
    }
    const step = strideOf(input, group);
    for (let q = writeTo(out, 0, frame), end = q + (frames << 4); q < end; q += 16, p += step)
      v128.store(q, lanesAt(p, sides));
  }
}
