// Values on their way to others: set values, amounts of cables.
//
// A way is even but for its corners, which are rounded over 7.5 ms: speed grows and ends as x^2 (3 - 2x), so that its
// first and second derivative never jump, and neither does what it multiplies (no energy at high frequencies, no click).
// A way shorter than two corners is all corner. One that sets out while another is under way keeps the speed it had and
// loses it over the first corner.
import { RAMP_REMAINING, RAMP_SPEED, RAMP_TOTAL, RAMP_VALUE, RAMP_WAY } from "./abi";
import { sampleRate } from "./time.as";
import { add, lower, higher, mul, splat, sub } from "./simd.as";

const CORNER_SECONDS: f32 = 0.0075;

/** Frames gone at a speed that grows over a corner and then stays 1: the integral of x^2 (3 - 2x), then a line. */
@inline function gone(frames: v128, corner: v128): v128 {
  const u = lower(f32x4.div(frames, corner), splat(1));
  const rise = mul(mul(u, mul(u, u)), sub(splat(1), mul(u, splat(0.5))));
  return add(mul(corner, rise), higher(sub(frames, corner), splat(0)));
}

/** Way left to go, for four numbers of frames left (within 0 ... total) at once. */
export function wayLeft(ramp: usize, left: v128): v128 {
  const total = <f32>load<i32>(ramp, RAMP_TOTAL);
  const corner = splat(min(total * 0.5, CORNER_SECONDS * sampleRate));
  const passed = sub(splat(total), left),
    whole = sub(splat(total), corner);
  const late = f32x4.lt(left, passed);
  const rest = v128.bitselect(gone(left, corner), sub(whole, gone(passed, corner)), late);
  const way = mul(splat(load<f32>(ramp, RAMP_WAY)), f32x4.div(rest, whole));
  const speed = load<f32>(ramp, RAMP_SPEED);
  if (speed == 0) return way;
  // u - 6u^3 + 8u^4 - 3u^5: sets out with slope 1, and ends at 0 without slope or bend.
  const u = lower(f32x4.div(passed, corner), splat(1)),
    u2 = mul(u, u);
  const kept = mul(u, add(splat(1), mul(u2, add(splat(-6), mul(u, sub(splat(8), mul(u, splat(3))))))));
  return sub(way, mul(splat(speed), mul(corner, kept)));
}


@inline export function wayAt(ramp: usize, left: i32): f32 {
  return f32x4.extract_lane(wayLeft(ramp, splat(<f32>left)), 0);
}

/** How fast it is going, in its way a frame. */
export function speedOf(ramp: usize): f32 {
  const left = load<i32>(ramp, RAMP_REMAINING);
  return left > 0 ? wayAt(ramp, left) - wayAt(ramp, left - 1) : 0;
}

/** Sets out for a value, `way` away, over so many frames (at least 1). */
export function setOut(ramp: usize, value: f32, way: f32, frames: i32): void {
  const speed = speedOf(ramp);
  store<f32>(ramp, value, RAMP_VALUE);
  store<f32>(ramp, way, RAMP_WAY);
  store<i32>(ramp, frames, RAMP_REMAINING);
  store<i32>(ramp, frames, RAMP_TOTAL);
  store<f32>(ramp, speed, RAMP_SPEED);
}

/** Is there at once. */
export function arrive(ramp: usize, value: f32): void {
  store<f32>(ramp, value, RAMP_VALUE);
  store<i32>(ramp, 0, RAMP_REMAINING);
}
