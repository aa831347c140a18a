import * as P from "../../../generated/stack.as";
import { pointerTo, put, scratch, sidesOf, signalAt } from "../../../kernels/instance.as";

const INPUTS: u32 = 8;

export function compute(instance: usize, g: u32, f: u32): void {
  const row = scratch(0),
    sides = sidesOf(instance);
  for (let k: u32 = 0; k < 4; ++k) {
    const lane = (g << 2) + k,
      voice = sides == 2 ? lane >> 1 : lane;
    store<f32>(
      row + (k << 2),
      voice < INPUTS ? load<f32>(pointerTo(signalAt(instance, P.IN_IN1 + (voice << 2)), g, f) + (k << 2)) : 0,
    );
  }
  put(instance, P.OUT_OUT, g, f, v128.load(row));
}
