// Flanger: one reader of a short ring, moved by a slow wave and fed back. Through zero the direct sound stands at the
// time as well, in a ring of its own that nothing is fed back into, and the reader passes it.
import * as P from "../../../generated/flanger.as";
import { sampleRate, time } from "../../../kernels/time.as";
import { maskOf, readSides, SLACK, slotOf } from "../../../kernels/delays.as";
import { LOOP_KNEE, LOOP_RANGE, softLimit } from "../../../kernels/limits.as";
import { scratch } from "../../../kernels/scratch.as";
import { phaseRow, sidesApart, sineAt } from "../../../kernels/sweep.as";
import { clamp, madd, mixed, mul, splat } from "../../../kernels/simd.as";

/** The wave reaches so far as a share of the time: never quite to nothing, unless it goes through zero. */
const REACH: f32 = 0.95;
const PHASES: u32 = 0;

export function process(m: P.Module, frame: u32, frames: u32): void {
  const input = m.in,
    throughZero = m.zero != 0;
  const groupBytes = m.auxBytes / m.groups,
    bytes = throughZero ? groupBytes >> 1 : groupBytes,
    mask = maskOf(bytes),
    most = splat(<f32>(mask - SLACK)),
    perMs = splat(sampleRate / 1000),
    furthest = splat(throughZero ? 1 : REACH);
  const isPair = m.voiceCount * m.sideCount <= 2;
  let resting = true;
  for (let g: u32 = 0, groups = m.groups; g < groups; ++g) {
    const state = m.state(g),
      ring = m.aux + <usize>g * groupBytes;
    const silent = input.isConstant(g) && !v128.any_true(v128.load(input.row(g, frame)));
    let quiet = load<u32>(state.quietAt);
    const phases = scratch(PHASES);
    phaseRow(state.phaseAt, m.rate, m.reset, m.sync, g, frame, frames, phases);
    if (silent && quiet > mask) {
      m.outOut.fill(g, frame, frames, splat(0));
      continue;
    }
    resting = false;
    const isStill =
      (m.time.step(g) | m.depth.step(g) | m.spread.step(g) | m.feedback.step(g) | m.mix.step(g)) == 0;
    let base = splat(0),
      reach = splat(0),
      apart = splat(0),
      feedback = splat(0),
      mix = splat(0);
    for (let f: u32 = 0; f < frames; ++f) {
      const now = time + frame + f,
        x = input.at(g, frame + f);
      if (f == 0 || !isStill) {
        base = mul(m.time.at(g, frame + f), perMs);
        reach = mul(base, mul(m.depth.at(g, frame + f), furthest));
        apart = sidesApart(m.spread.at(g, frame + f));
        feedback = m.feedback.at(g, frame + f);
        mix = m.mix.at(g, frame + f);
      }
      const moved = madd(reach, sineAt(i32x4.add(v128.load(phases + (f << 4)), apart)), base);
      const delay = clamp(moved, splat(1), most);
      const wet = readSides(isPair, ring, mask, now, delay);
      const kept = softLimit(madd(feedback, wet, x), LOOP_KNEE, LOOP_RANGE);
      quiet = v128.any_true(kept) ? 0 : quiet + 1;
      v128.store(slotOf(ring, mask, now), kept);
      let dry = x;
      if (throughZero) {
        v128.store(slotOf(ring + bytes, mask, now), x);
        const at = clamp(base, splat(1), most);
        dry = readSides(isPair, ring + bytes, mask, now, at);
      }
      m.outOut.put(g, frame + f, mixed(dry, wet, mix));
    }
    store<u32>(state.quietAt, min<u32>(quiet, 0x7fffffff));
  }
  if (resting) m.rest();
}
