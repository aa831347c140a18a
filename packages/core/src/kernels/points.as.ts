// Reading tables of evenly spaced points.
import { madd, sub } from "./simd.as";

/** The table at x (0 … points − 1, already limited), linear between points; one more point stands behind the last. */
@inline export function lookUpPoints(table: usize, x: v128): v128 {
  const whole = i32x4.trunc_sat_f32x4_s(x);
  const fraction = sub(x, f32x4.convert_i32x4_s(whole));
  const at = i32x4.shl(whole, 2);
  const p0 = table + <usize>i32x4.extract_lane(at, 0),
    p1 = table + <usize>i32x4.extract_lane(at, 1),
    p2 = table + <usize>i32x4.extract_lane(at, 2),
    p3 = table + <usize>i32x4.extract_lane(at, 3);
  const a = f32x4(load<f32>(p0), load<f32>(p1), load<f32>(p2), load<f32>(p3));
  const b = f32x4(load<f32>(p0, 4), load<f32>(p1, 4), load<f32>(p2, 4), load<f32>(p3, 4));
  return madd(sub(b, a), fraction, a);
}
