import * as P from "../../../generated/sum.as";
import { gainOfConstantLevel } from "../../../kernels/levels.as";
import { mul, splat } from "../../../kernels/simd.as";

export function compute(m: P.Module, g: u32, f: u32): void {
  let gain = gainOfConstantLevel(m.level.at(g, f));
  if (m.gain == P.GAIN_BALANCED) gain = mul(gain, splat(1 / sqrt<f32>(<f32>m.fedVoiceCount)));
  m.outOut.put(g, f, mul(m.in.at(g, f), gain));
}
