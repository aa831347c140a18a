// What bends echoes in a delay's loop.
import { downsampleLight, upsampleLight } from "../../../kernels/oversample.as";
import { scratch } from "../../../kernels/scratch.as";
import { add, div, exp2, madd, mul, splat, sub } from "../../../kernels/simd.as";
import { oversampling } from "../../../kernels/time.as";

const DRIVEN: u32 = 0;

/** 1 / c for a drive in dB: nothing at 0 dB. */
@inline export function bendOf(drive: v128): v128 {
  return sub(exp2(mul(drive, splat(0.0830482))), splat(1));
}

/**
 * x / sqrt(1 + (x / c)^2), the ceiling c falling from nowhere at 0 dB, at a higher rate and as its mean between two samples
 * there (Parker, Zavalishin & Le Bivic, DAFx 2016), which for this curve is (a + b) / (sqrt(1 + a^2) + sqrt(1 + b^2)).
 */
export function driven(over: usize, lastAt: usize, x: v128, bend: v128): v128 {
  const one = splat(1),
    at = scratch(DRIVEN);
  v128.store(at, x);
  const row = upsampleLight(over, at, 16, 1);
  let last = v128.load(lastAt);
  for (let p = row, end = row + ((<usize>oversampling) << 4); p < end; p += 16) {
    const y = v128.load(p),
      a = mul(last, bend),
      b = mul(y, bend);
    v128.store(p, div(add(last, y), add(f32x4.sqrt(madd(a, a, one)), f32x4.sqrt(madd(b, b, one)))));
    last = y;
  }
  v128.store(lastAt, last);
  downsampleLight(over, row, at, 1);
  return v128.load(at);
}
