import { AUX_LEFT, AUX_RIGHT } from "../../../kernels/boundary";
import * as P from "../../../generated/input.as";
import { mul } from "../../../kernels/simd.as";

/** The host writes the segment's left and right samples into the further memory before each run. */
export function process(m: P.Module, frame: u32, frames: u32): void {
  const out = m.outOut.write(0, frame);
  const signal = m.level;
  let level = signal.row(0, frame);
  const stride = signal.step(0);
  const aux = m.aux;
  for (let f: u32 = 0; f < frames; ++f) {
    const at = (frame + f) << 2;
    const sides = f32x4(load<f32>(aux + at, AUX_LEFT), load<f32>(aux + at, AUX_RIGHT), 0, 0);
    v128.store(out + (f << 4), mul(sides, v128.load(level)));
    level += stride;
  }
}
