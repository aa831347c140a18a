import * as P from "../../../generated/sum.as";
import { choiceOf, fedVoicesOf, put, read } from "../../../kernels/instance.as";
import { gainOfConstantLevel } from "../../../kernels/levels.as";
import { mul, splat } from "../../../kernels/simd.as";

export function compute(instance: usize, g: u32, f: u32): void {
  let gain = gainOfConstantLevel(read(instance, P.PARAM_LEVEL, g, f));
  if (choiceOf(instance, P.SET_GAIN) == P.GAIN_BALANCED)
    gain = mul(gain, splat(1 / sqrt<f32>(<f32>fedVoicesOf(instance))));
  put(instance, P.OUT_OUT, g, f, mul(read(instance, P.IN_IN, g, f), gain));
}
