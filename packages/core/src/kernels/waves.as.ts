// The plain shapes of slow oscillators: 0 sine, 1 triangle, 2 saw, 3 fall, 4 square.
import { add, mul, select, sineOfCycles, splat, sub } from "./simd.as";

/** A shape at signed phase s (−0.5…0.5) and phase p (0…1). Phases as the oscillator's: triangle from −1, saw from −1. */
@inline export function shapeAt(shape: u32, s: v128, p: v128, width: v128): v128 {
  if (shape == 0) return sineOfCycles(s);
  if (shape == 1) return sub(mul(splat(4), f32x4.abs(s)), splat(1));
  if (shape == 2) return sub(add(p, p), splat(1));
  if (shape == 3) return sub(splat(1), add(p, p));
  return select(splat(1), splat(-1), f32x4.lt(p, width));
}
