// Pitch shifter: a delay read at another speed. Before it runs out it jumps to where the sound of the last moment is most
// alike (Verhelst & Roelands, "An overlap-add technique based on waveform similarity", 1993), found on every fourth
// sample first and between samples then, the same for both sides, and fades over. What would fold back is taken out
// before it is written.
import { audible, numberOf } from "../../../kernels/lanes.as";
import * as P from "../../../generated/pitchshift.as";
import { bandOf, lowOf, tangentOfShare } from "../../../kernels/filters.as";
import { scratch } from "../../../kernels/scratch.as";
import { Signal } from "../../../kernels/signal.as";
import { add, clamp, exp2, madd, mixed, mul, splat, sub } from "../../../kernels/simd.as";
import { sampleRate, time } from "../../../kernels/time.as";
import { Heads, readPair, Sound, splice } from "./heads.as";

/** Shares of the size: how far a jump goes, how long it takes. */
const JUMP: f64 = 0.5,
  FADE: f64 = 0.25;
/** Share of a jump that a fade may use up. */
const FADED_JUMP: f64 = 0.4;
/** Above its own speed what is written is low-passed at the rate over it; fully so a thirtieth above. */
const FOLDS_FULLY: f32 = 30;
const PASS: f32 = 0.43;
/** Dampings of a Butterworth filter of twelfth order. */
const DAMPINGS: usize = memory.data<f32>(
  [0.2610524, 0.7653669, 1.2175229, 1.5867067, 1.8477591, 1.9828897],
  16,
);
const SECTIONS: usize = 6;
const MOST: f32 = 64,
  SILENCE: f32 = 1e-9;
const WET: u32 = 0,
  DRY: u32 = 1;
const FILTER_BYTES: usize = 192,
  HEADS_BYTES: usize = 96;

/** Low-passed as far as the speed asks for. */
@inline function unfolded(filters: usize, x: v128, speed: f32, t: v128): v128 {
  let y = x;
  for (let n: usize = 0; n < SECTIONS; ++n) {
    const at = filters + (n << 5);
    y = lowOf(at, bandOf(at, y, t, v128.load32_splat(DAMPINGS + (n << 2))), t);
  }
  return madd(splat(min<f32>(1, max<f32>(speed - 1, 0) * FOLDS_FULLY)), sub(y, x), x);
}

/** One frame of a voice: what comes in, and out of both heads. */
function step(h: Heads, s: Sound, filters: usize, now: u32, x: v128, speed: f32, t: v128, size: f32): v128 {
  const y = audible(unfolded(filters, x, speed, t), MOST, SILENCE);
  s.write(now, y);
  const jump = <f64>size * JUMP,
    middle = nearest(<f64>size * 0.5);
  // A fade ends before the head it leads to has run out as well.
  const fade = speed > 1 ? min(<f64>size * FADE, (FADED_JUMP * jump) / (<f64>speed - 1)) : <f64>size * FADE;
  if (h.isStarted == 0) {
    h.isStarted = 1;
    h.delay = middle;
  }
  h.delay -= <f64>speed - 1;
  if (h.left > 0) h.old -= <f64>speed - 1;
  else if (speed == 1) {
    if (h.delay != middle) h.jumpTo(middle, fade, 1);
  } else if (speed > 1) {
    // The old head runs on towards the newest while it fades.
    const least = 8 + (<f64>speed - 1) * fade;
    if (h.delay < least) splice(h, s, now, 1, jump, fade);
  } else if (h.delay > middle + 0.5 * jump) splice(h, s, now, -1, jump, fade);
  // Whatever happens, what is read is there.
  h.delay = min(max(h.delay, 4), <f64>(s.mask - 16));
  let wet = readPair(s, now, h.delay);
  if (h.left > 0) {
    h.old = min(max(h.old, 4), <f64>(s.mask - 16));
    const w: f32 = 1 - <f32>h.left * h.perFrame,
      v: f32 = 1 - w;
    // Alike sounds add up, unlike ones by their power.
    const loud: f32 = 1 / sqrt<f32>(w * w + v * v + 2 * h.alike * w * v);
    const old = readPair(s, now, h.old);
    wet = add(mul(wet, splat(w * loud)), mul(old, splat(v * loud)));
    h.left -= 1;
  }
  const quiet = !v128.any_true(v128.or(x, y));
  h.quiet = quiet ? min<u32>(h.quiet + 1, 0x40000000) : 0;
  return wet;
}

export function process(m: P.Module, frame: u32, frames: u32): void {
  const input = m.in,
    voiceBytes = m.auxBytes / m.voiceCount,
    wet = scratch(WET),
    dry = scratch(DRY);
  let resting = true;
  for (let g: u32 = 0, groups = m.groups; g < groups; ++g) {
    const state = m.state(g),
      isSilent = input.isConstant(g) && !v128.any_true(v128.load(input.row(g, frame)));
    memory.fill(wet, 0, 2048);
    memory.fill(dry, 0, 2048);
    let rests = true;
    for (let v: u32 = 0; v < 2 && (g << 1) + v < m.voiceCount; ++v) {
      const h = changetype<Heads>(state.headsAt + v * HEADS_BYTES),
        s = Sound.of(m.aux + <usize>((g << 1) + v) * voiceBytes, m.table);
      if (isSilent && h.quiet > s.mask) continue;
      rests = false;
      const lane = (<usize>v) << 3;
      let speed: f32 = 1,
        size: f32 = 0,
        t = splat(0);
      const isStill = (m.semitones.step(g) | m.fine.step(g) | m.size.step(g)) == 0;
      for (let f: u32 = 0; f < frames; ++f) {
        const now = time + frame + f,
          x = v128.load64_zero(input.row(g, frame + f) + lane);
        if (f == 0 || !isStill) {
          const octaves: f32 =
            numberOf(m.semitones, g, frame + f, lane) / 12 + numberOf(m.fine, g, frame + f, lane) / 1200;
          speed = octaves == 0 ? 1 : f32x4.extract_lane(exp2(splat(octaves)), 0);
          t = tangentOfShare(splat(PASS / max<f32>(speed, 1)));
          size = numberOf(m.size, g, frame + f, lane) * sampleRate * 0.001;
        }
        const at = ((<usize>f) << 4) + lane;
        v128.store64_lane(
          wet + at,
          step(h, s, state.filtersAt + v * FILTER_BYTES, now, x, speed, t, size),
          0,
        );
        s.writeDirect(now, x);
        v128.store64_lane(dry + at, s.readDirect(now, <u32>nearest(size * 0.5)), 0);
      }
    }
    if (rests) {
      m.outOut.fill(g, frame, frames, splat(0));
      continue;
    }
    resting = false;
    for (let f: u32 = 0; f < frames; ++f)
      m.outOut.put(
        g,
        frame + f,
        mixed(v128.load(dry + (f << 4)), v128.load(wet + (f << 4)), m.mix.at(g, frame + f)),
      );
  }
  if (resting) m.rest();
}
