// One lane of a signal at a time, for modules in which every voice is a thing of its own.
import { Signal } from "./signal.as";
import { clamp, splat } from "./simd.as";

/** The number on a lane at a frame; `lane` in bytes. */
// @ts-ignore: decorator
@inline export function numberOf(signal: Signal, g: u32, frame: u32, lane: usize): f32 {
  return load<f32>(signal.row(g, frame) + lane);
}
/** The first lane. */
// @ts-ignore: decorator
@inline export function firstOf(x: v128): f32 {
  return f32x4.extract_lane(x, 0);
}
/** All four lanes together. */
// @ts-ignore: decorator
@inline export function totalOf(x: v128): f32 {
  return (
    f32x4.extract_lane(x, 0) + f32x4.extract_lane(x, 1) + f32x4.extract_lane(x, 2) + f32x4.extract_lane(x, 3)
  );
}
/** Bounded, finite, and nothing where it cannot be heard: what goes into rings that end in silence. */
// @ts-ignore: decorator
@inline export function audible(x: v128, most: f32, silence: f32): v128 {
  return v128.and(clamp(x, splat(-most), splat(most)), f32x4.gt(f32x4.abs(x), splat(silence)));
}
