// Limiter: the gain that what is to come needs, between samples as well, times the delayed sound.
import * as P from "../../../generated/limiter.as";
import { LOOKAHEAD_SAMPLE, VECTOR_BYTES } from "../../../kernels/abi";
import { sampleRate, time } from "../../../kernels/time.as";
import { slotOf } from "../../../kernels/delays.as";
import { keepOver, linked } from "../../../kernels/detectors.as";
import { DB_PER_OCTAVE, gainOfDb } from "../../../kernels/levels.as";
import { nextGain, PEAK_HOLD } from "../../../kernels/lookahead.as";
import { clamp, div, higher, log2, lower, mul, splat } from "../../../kernels/simd.as";
import { peakFrom, PEAK_REACH, PEAK_STRIP, sane, seenBound } from "../../../kernels/truepeak.as";

/** Inside a loop nothing can be looked ahead at: what is beyond the ceiling is cut. */
function cut(m: P.Module, g: u32, frame: u32, frames: u32): void {
  for (let f = frame, end = frame + frames; f < end; ++f) {
    const ceiling = gainOfDb(m.ceiling.at(g, f));
    m.outOut.put(g, f, clamp(m.in.at(g, f), f32x4.neg(ceiling), ceiling));
    m.outReduction.put(g, f, splat(0));
  }
}

/** What a sample leaves of the way back to 1. */
@inline function keepAt(m: P.Module, g: u32, f: u32): v128 {
  return keepOver(1000 / sampleRate, m.release.at(g, f));
}

export function process(m: P.Module, frame: u32, frames: u32): void {
  const input = m.in,
    out = m.outOut,
    ceilings = m.ceiling,
    releases = m.release;
  // A ring of sound and a gain share the memory of a group.
  const perGroup = m.auxBytes / m.groups,
    vectors: u32 = 1 << (31 - clz<u32>(<u32>perGroup / <u32>(VECTOR_BYTES + LOOKAHEAD_SAMPLE))),
    mask = vectors - 1;
  const window = max<u32>(<u32>(m.lookahead * <f32>0.001 * sampleRate + 0.5), 1),
    latency = PEAK_REACH + window + PEAK_HOLD - 1,
    stereo = m.sideCount == 2;
  for (let g: u32 = 0, groups = m.groups; g < groups; ++g) {
    if (out.isFixed) {
      cut(m, g, frame, frames);
      continue;
    }
    const sound = m.aux + <usize>g * perGroup,
      gains = sound + ((<usize>vectors) << 4),
      first = time + frame;
    for (let f: u32 = 0; f < frames; ++f)
      v128.store(slotOf(sound, mask, first + f), sane(input.at(g, frame + f)));
    const fixed = ceilings.isConstant(g),
      bound = fixed ? seenBound(sound, mask, first + frames - 1, frames) : splat(0);
    let ceiling = gainOfDb(v128.load(ceilings.row(g, frame)));
    const quiet = fixed && i32x4.all_true(f32x4.le(bound, ceiling)),
      steady = releases.isConstant(g);
    let keep = keepAt(m, g, frame),
      still = quiet;
    for (let f: u32 = 0; f < frames; ++f) {
      const now = first + f;
      if (fixed && !quiet && frames > PEAK_STRIP && f % PEAK_STRIP == 0) {
        const strip = min(PEAK_STRIP, frames - f),
          near = seenBound(sound, mask, now + strip - 1, strip);
        still = i32x4.all_true(f32x4.le(near, ceiling));
      }
      if (!fixed) ceiling = gainOfDb(ceilings.at(g, frame + f));
      if (!steady) keep = keepAt(m, g, frame + f);
      let need = splat(1);
      if (!still) {
        let level = peakFrom(sound, mask, now - PEAK_REACH);
        if (stereo) level = linked(level);
        need = lower(splat(1), div(ceiling, higher(level, ceiling)));
      }
      const gain = nextGain(gains, mask, now, need, window, keep);
      v128.store(out.write(g, frame + f), mul(v128.load(slotOf(sound, mask, now - latency)), gain));
      // Decibels taken off, per 60, as of the dynamics.
      m.outReduction.put(g, frame + f, mul(log2(higher(gain, splat(1e-9))), splat(-DB_PER_OCTAVE / 60)));
    }
  }
}
