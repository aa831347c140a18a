import * as P from "../../../generated/stack.as";
import { scratch } from "../../../kernels/scratch.as";

const INPUTS: u32 = 8;

export function compute(m: P.Module, g: u32, f: u32): v128 {
  const row = scratch(0),
    sides = m.sideCount;
  for (let k: u32 = 0; k < 4; ++k) {
    const lane = (g << 2) + k,
      voice = sides == 2 ? lane >> 1 : lane;
    store<f32>(
      row + (k << 2),
      voice < INPUTS ? load<f32>(m.signal(P.IN_IN1 + (voice << 2)).row(g, f) + (k << 2)) : 0,
    );
  }
  return v128.load(row);
}
