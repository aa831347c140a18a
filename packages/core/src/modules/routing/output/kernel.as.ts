import * as P from "../../../generated/output.as";
import { busOf } from "../../../kernels/guard.as";
import { add, mul, select, splat } from "../../../kernels/simd.as";
import { gainOfConstantLevel, gainOfLevel } from "../../../kernels/levels.as";

/** Adds to the bus of its pair; the guard takes it from there. */
export function process(m: P.Module, frame: u32, frames: u32): void {
  const input = m.in,
    level = m.level,
    mono = m.mono;
  let x = input.row(0, frame),
    l = level.row(0, frame),
    pMono = mono.row(0, frame);
  const xs = input.step(0),
    ls = level.step(0),
    ms = mono.step(0);
  // Silence adds nothing.
  if (xs == 0 && !v128.any_true(v128.load(x))) {
    if (m.settled(0)) m.rest();
    return;
  }
  const bus = busOf(<u32>m.pair - 1);
  let gain = gainOfConstantLevel(v128.load(l));
  for (let f: u32 = 0; f < frames; ++f) {
    if (ls != 0) gain = gainOfLevel(v128.load(l));
    let y = mul(v128.load(x), gain);
    const swapped = v128.shuffle<i32>(y, y, 1, 0, 3, 2);
    y = select(mul(add(y, swapped), splat(0.5)), y, f32x4.gt(v128.load(pMono), splat(0.5)));
    const at = bus + ((frame + f) << 3);
    store<f32>(at, load<f32>(at) + f32x4.extract_lane(y, 0));
    store<f32>(at, load<f32>(at, 4) + f32x4.extract_lane(y, 1), 4);
    x += xs;
    l += ls;
    pMono += ms;
  }
}
