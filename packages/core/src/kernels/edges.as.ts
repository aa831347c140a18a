// Gates, edges and triggers, shared by everything that is stepped. On means above 0.5.
import { Signal } from "./signal.as";
import { sampleRate } from "./time.as";
import { splat } from "./simd.as";

const TRIGGER_SECONDS: f32 = 0.001;


@inline export function isOn(x: v128): v128 {
  return f32x4.gt(x, splat(0.5));
}
/** Lanes in which a gate rises now; keeps it in the vector at `before`. Gates are 0 before the first sample. */
@inline export function rising(before: usize, gate: v128): v128 {
  const on = isOn(gate);
  const rises = v128.andnot(on, v128.load(before));
  v128.store(before, on);
  return rises;
}
/** True when a gate is as `rising` last saw it: nothing will rise or fall. */
@inline export function unmoved(before: usize, gate: v128): bool {
  return !v128.any_true(v128.xor(isOn(gate), v128.load(before)));
}

/** True when a gate rises or falls in a group within some frames; `before` as `rising` keeps it. */
export function anyRise(before: usize, signal: Signal, g: u32, frame: u32, frames: u32): bool {
  let p = signal.row(g, frame);
  const was = v128.load(before),
    stride = signal.step(g);
  if (v128.any_true(v128.xor(isOn(v128.load(p)), was))) return true;
  if (stride == 0) return false;
  for (let end = p + frames * stride; p < end; p += stride)
    if (v128.any_true(v128.xor(isOn(v128.load(p)), was))) return true;
  return false;
}

/** Writes the lanes that rise at each of some frames into a row; true when any does. `before` as `rising` keeps it. */
export function riseRow(before: usize, signal: Signal, g: u32, frame: u32, frames: u32, row: usize): bool {
  if (!signal.isCabled || !anyRise(before, signal, g, frame, frames)) return false;
  let p = signal.row(g, frame);
  const stride = signal.step(g);
  for (let end = row + (frames << 4); row < end; row += 16, p += stride)
    v128.store(row, rising(before, v128.load(p)));
  return true;
}

/** Starts a trigger of 1 ms in some lanes. */
@inline export function startTrigger(left: usize, lanes: v128): void {
  v128.store(
    left,
    v128.bitselect(i32x4.splat(<i32>(TRIGGER_SECONDS * sampleRate + 0.5)), v128.load(left), lanes),
  );
}
/** The trigger at this frame; counts down. */
@inline export function nextTrigger(left: usize): v128 {
  const now = v128.load(left);
  const on = i32x4.gt_s(now, i32x4.splat(0));
  v128.store(left, i32x4.add(now, on));
  return v128.and(on, splat(1));
}
/** True when every lane of a vector is zero. */
@inline export function isZero(at: usize): bool {
  return !v128.any_true(v128.load(at));
}
