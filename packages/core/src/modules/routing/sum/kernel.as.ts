import * as P from "../../../generated/sum.as";
import { gainOfConstantLevel } from "../../../kernels/levels.as";
import { mul, splat } from "../../../kernels/simd.as";

export function compute(m: P.Module, level: v128, input: v128): v128 {
  let gain = gainOfConstantLevel(level);
  if (m.gain == P.GAIN_BALANCED) gain = mul(gain, splat(1 / sqrt<f32>(<f32>m.fedVoiceCount)));
  return mul(input, gain);
}
