// The envelope of a sampler's voice.
import { numberOf } from "../../../kernels/lanes.as";
import * as P from "../../../generated/sampler.as";
import { Signal } from "../../../kernels/signal.as";
import { exp2, splat } from "../../../kernels/simd.as";
import { sampleRate } from "../../../kernels/time.as";
import { Voice } from "./voice.as";

const LEAST_SECONDS: f32 = 0.001;
/** Octaves of level by which decay and release are meant: 60 dB; and where a release has ended. */
const OCTAVES: f32 = -9.9657843,
  SILENT: f32 = 1e-4;
export const IDLE: u32 = 0,
  ATTACK: u32 = 1,
  DECAY: u32 = 2,
  RELEASE: u32 = 3;
/** Frames of a block at which nothing ends. */
export const NEVER: u32 = 0xffffffff;


@inline export function power(octaves: f32): f64 {
  return octaves == 0 ? 1 : <f64>f32x4.extract_lane(exp2(splat(octaves)), 0);
}

/** What is left of a level after a frame, where 60 dB take so many seconds. */
@inline function keepFor(seconds: f32): f32 {
  return <f32>power(OCTAVES / (max<f32>(seconds, LEAST_SECONDS) * sampleRate));
}

/** The envelope over some frames, into a row. */
export function envelope(
  m: P.Module,
  voice: Voice,
  g: u32,
  from: u32,
  to: u32,
  frame: u32,
  lane: usize,
  row: usize,
): void {
  const decays = m.decay.step(g) != 0,
    releases = m.release.step(g) != 0,
    sustains = m.sustain.step(g) != 0;
  let decay = keepFor(numberOf(m.decay, g, frame + from, lane)),
    release = keepFor(numberOf(m.release, g, frame + from, lane)),
    sustain = numberOf(m.sustain, g, frame + from, lane);
  for (let f = from; f < to; ++f) {
    const at = frame + f;
    // What has come to rest stays as it is.
    if (
      voice.stage == DECAY &&
      !decays &&
      !sustains &&
      sustain + (voice.level - sustain) * decay == voice.level
    ) {
      const level = splat(voice.level * voice.gain);
      let p = row + ((<usize>f) << 2);
      const end = row + ((<usize>to) << 2);
      for (; p + 16 <= end; p += 16) v128.store(p, level);
      for (; p < end; p += 4) store<f32>(p, voice.level * voice.gain);
      return;
    }
    if (voice.stage == ATTACK) {
      voice.level += 1 / max<f32>(numberOf(m.attack, g, at, lane) * sampleRate, 24);
      if (voice.level >= 1) {
        voice.level = 1;
        voice.stage = DECAY;
      }
    } else if (voice.stage == DECAY) {
      if (decays) decay = keepFor(numberOf(m.decay, g, at, lane));
      if (sustains) sustain = numberOf(m.sustain, g, at, lane);
      voice.level = sustain + (voice.level - sustain) * decay;
    } else if (voice.stage == RELEASE) {
      if (releases) release = keepFor(numberOf(m.release, g, at, lane));
      voice.level *= release;
      if (voice.level < SILENT) {
        voice.level = 0;
        voice.stage = IDLE;
        voice.ended = min(voice.ended, f);
      }
    }
    store<f32>(row + ((<usize>f) << 2), voice.level * voice.gain);
  }
}
