import { AUX_LEFT, AUX_RIGHT } from "../../../kernels/boundary";
import * as P from "../../../generated/input.as";
import { auxOf, pointerTo, signalAt, strideOf, writeTo } from "../../../kernels/instance.as";
import { mul } from "../../../kernels/simd.as";

/** The host writes the segment's left and right samples into the further memory before each run. */
export function process(instance: usize, frame: u32, frames: u32): void {
  const out = writeTo(signalAt(instance, P.OUT_OUT), 0, frame);
  const signal = signalAt(instance, P.PARAM_LEVEL);
  let level = pointerTo(signal, 0, frame);
  const stride = strideOf(signal, 0);
  const aux = auxOf(instance);
  for (let f: u32 = 0; f < frames; ++f) {
    const at = (frame + f) << 2;
    const sides = f32x4(load<f32>(aux + at, AUX_LEFT), load<f32>(aux + at, AUX_RIGHT), 0, 0);
    v128.store(out + (f << 4), mul(sides, v128.load(level)));
    level += stride;
  }
}
