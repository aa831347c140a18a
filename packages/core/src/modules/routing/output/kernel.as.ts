import * as P from "../../../generated/output.as";
import { busOf } from "../../../kernels/guard.as";
import { numberOf, pointerTo, rest, settled, signalAt, strideOf } from "../../../kernels/instance.as";
import { add, mul, select, splat } from "../../../kernels/simd.as";
import { gainOfConstantLevel, gainOfLevel } from "../../../kernels/levels.as";

/** Adds to the bus of its pair; the guard takes it from there. */
export function process(instance: usize, frame: u32, frames: u32): void {
  const input = signalAt(instance, P.IN_IN),
    level = signalAt(instance, P.PARAM_LEVEL),
    mono = signalAt(instance, P.PARAM_MONO);
  let x = pointerTo(input, 0, frame),
    l = pointerTo(level, 0, frame),
    m = pointerTo(mono, 0, frame);
  const xs = strideOf(input, 0),
    ls = strideOf(level, 0),
    ms = strideOf(mono, 0);
  // Silence adds nothing.
  if (xs == 0 && !v128.any_true(v128.load(x))) {
    if (settled(instance, 0)) rest(instance);
    return;
  }
  const bus = busOf(<u32>numberOf(instance, P.SET_PAIR) - 1);
  let gain = gainOfConstantLevel(v128.load(l));
  for (let f: u32 = 0; f < frames; ++f) {
    if (ls != 0) gain = gainOfLevel(v128.load(l));
    let y = mul(v128.load(x), gain);
    const swapped = v128.shuffle<i32>(y, y, 1, 0, 3, 2);
    y = select(mul(add(y, swapped), splat(0.5)), y, f32x4.gt(v128.load(m), splat(0.5)));
    const at = bus + ((frame + f) << 3);
    store<f32>(at, load<f32>(at) + f32x4.extract_lane(y, 0));
    store<f32>(at, load<f32>(at, 4) + f32x4.extract_lane(y, 1), 4);
    x += xs;
    l += ls;
    m += ms;
  }
}
