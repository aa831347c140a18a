import * as P from "../../../generated/dynamics.as";
import { sampleRate, time } from "../../../kernels/time.as";
import { DB_PER_OCTAVE, gainOfDb } from "../../../kernels/levels.as";
import { slotOf } from "../../../kernels/delays.as";
import { approach, heldPeak, keepOver, linked, paceOver } from "../../../kernels/detectors.as";
import { isQuiet } from "../../../kernels/quiet.as";
import { add, div, higher, log2, lower, mixed, mul, select, splat, sub } from "../../../kernels/simd.as";

const RING: u32 = 4096;

/** Peaks are held for so long, half a period of 50 Hz, before they fall: a steady tone reads its peak at all times. */
const HOLD_SECONDS: f32 = 0.01,
  FALL_SECONDS: f32 = 0.005;

/** How far the bend reaches at x dB above the threshold: 0 below the knee, x above it, a parabola within. */
@inline function bend(x: v128, knee: v128): v128 {
  const half = mul(knee, splat(0.5)),
    inside = higher(add(x, half), splat(0));
  const soft = div(mul(inside, inside), higher(add(knee, knee), splat(1e-3)));
  return select(higher(x, splat(0)), soft, f32x4.ge(x, half));
}

export function process(m: P.Module, frame: u32, frames: u32): void {
  const input = m.in,
    side = m.side.isCabled ? m.side : input;
  const inLoop = m.outOut.isFixed;
  const ahead = inLoop || m.auxBytes == 0 ? 0 : <u32>(m.lookahead * <f32>0.001 * sampleRate + <f32>0.5);
  const stereo = m.sideCount == 2;
  const hold = <i32>(HOLD_SECONDS * sampleRate + 0.5),
    fall = paceOver(FALL_SECONDS, sampleRate);
  let resting = ahead == 0;
  for (let g: u32 = 0, groups = m.groups; g < groups; ++g) {
    const state = m.state(g),
      ring = m.aux + <usize>g * RING * 16;
    if (
      ahead == 0 &&
      m.settled(g) &&
      isQuiet(input, g, frame, state.address, 2) &&
      !v128.any_true(side.at(g, frame))
    ) {
      m.outOut.fill(g, frame, frames, splat(0));
      m.outReduction.fill(g, frame, frames, splat(0));
      continue;
    }
    resting = false;
    let change = state.change;
    for (let f = frame, end = frame + frames; f < end; ++f) {
      let level = heldPeak(state.peakAt, state.holdAt, f32x4.abs(side.at(g, f)), hold, fall);
      if (stereo) level = linked(level);
      const over = sub(mul(log2(higher(level, splat(1e-6))), splat(DB_PER_OCTAVE)), m.threshold.at(g, f));
      const ratio = m.ratio.at(g, f),
        knee = m.knee.at(g, f);
      const compressing = mul(bend(over, knee), sub(div(splat(1), ratio), splat(1)));
      const expanding = f32x4.neg(mul(bend(f32x4.neg(over), knee), sub(div(splat(1), ratio), splat(1))));
      const goal = higher(select(compressing, expanding, f32x4.ge(ratio, splat(1))), splat(-90));
      // Attack is the way to less for a compressor, to more for an expander: whenever the sound gets louder.
      const louder = select(f32x4.lt(goal, change), f32x4.gt(goal, change), f32x4.ge(ratio, splat(1)));
      const ms = select(m.attack.at(g, f), m.release.at(g, f), louder);
      change = approach(change, goal, keepOver(1000 / sampleRate, ms));
      let x = input.at(g, f);
      if (ahead) {
        const now = time + f;
        v128.store(slotOf(ring, RING - 1, now), x);
        x = v128.load(slotOf(ring, RING - 1, now - ahead));
      }
      const gain = gainOfDb(add(change, m.makeup.at(g, f)));
      m.outOut.put(g, f, mixed(x, mul(x, gain), m.mix.at(g, f)));
      m.outReduction.put(g, f, lower(splat(1), higher(splat(0), mul(change, splat(-1.0 / 60.0)))));
    }
    state.change = change;
  }
  if (resting) m.rest();
}
