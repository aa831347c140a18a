// Limiter: the gain each sample needs, the least of the coming ones, smoothed over as long, times the delayed sound.
// The least of a window followed by the mean over the same window never lies above what any sample needs.
import * as P from "../../../generated/limiter.as";
import { SIGNAL_FIXED } from "../../../kernels/abi";
import {
  auxBytesOf,
  auxOf,
  groupsOf,
  numberOf,
  peek,
  put,
  read,
  sampleRate,
  sidesOf,
  signalAt,
  stateOf,
  time,
} from "../../../kernels/instance.as";
import { DB_PER_OCTAVE, gainOfDb } from "../../../kernels/levels.as";
import { clamp, div, exp2, higher, log2, mul, splat, sub } from "../../../kernels/simd.as";

const LOG2E: f32 = 1.44269504;

export function process(instance: usize, frame: u32, frames: u32): void {
  const input = signalAt(instance, P.IN_IN),
    inLoop = load<u32>(signalAt(instance, P.OUT_OUT), SIGNAL_FIXED) != 0;
  const ring = (<u32>(auxBytesOf(instance) / groupsOf(instance))) >> 5,
    mask = ring - 1;
  const ahead = min<u32>(
      <u32>(numberOf(instance, P.SET_LOOKAHEAD) * <f32>0.001 * sampleRate + 0.5),
      ring / 2 - 1,
    ),
    stereo = sidesOf(instance) == 2;
  for (let g: u32 = 0, groups = groupsOf(instance); g < groups; ++g) {
    const state = stateOf(instance, g),
      sound = auxOf(instance) + <usize>g * ring * 32,
      needs = sound + ring * 16;
    let lack = v128.load(state + P.STATE_LACK);
    for (let f = frame, end = frame + frames; f < end; ++f) {
      const x = peek(input, g, f),
        ceiling = gainOfDb(read(instance, P.PARAM_CEILING, g, f));
      if (inLoop) {
        const cut = clamp(x, f32x4.neg(ceiling), ceiling);
        put(instance, P.OUT_OUT, g, f, cut);
        put(instance, P.OUT_REDUCTION, g, f, splat(0));
        continue;
      }
      let level = f32x4.abs(x);
      if (stereo) level = higher(level, v128.shuffle<i32>(level, level, 1, 0, 3, 2));
      // What is to be taken off: 0 while the sample is below the ceiling.
      const need = sub(splat(1), div(ceiling, higher(level, ceiling)));
      const now = time + f;
      v128.store(sound + ((<usize>(now & mask)) << 4), x);
      // Straight towards each peak: the need of a sample still `d` frames away counts for the share of the way that is done.
      const keep = exp2(div(splat((-LOG2E * 1000) / sampleRate), read(instance, P.PARAM_RELEASE, g, f)));
      v128.store(needs + ((<usize>(now & mask)) << 4), need);
      lack = mul(lack, keep);
      const share: f32 = 1 / <f32>(ahead + 1);
      if (v128.any_true(need) || v128.any_true(v128.load(state + P.STATE_HOLD))) {
        let most = splat(0);
        for (let d: u32 = 0; d <= ahead; ++d)
          most = higher(
            most,
            mul(v128.load(needs + ((<usize>((now - d) & mask)) << 4)), splat(<f32>(d + 1) * share)),
          );
        lack = higher(lack, most);
        const hold = v128.any_true(need)
          ? i32x4.splat(<i32>ahead + 1)
          : i32x4.sub(v128.load(state + P.STATE_HOLD), i32x4.splat(1));
        v128.store(state + P.STATE_HOLD, hold);
      }
      lack = v128.and(lack, f32x4.gt(lack, splat(1e-6)));
      put(
        instance,
        P.OUT_OUT,
        g,
        f,
        mul(v128.load(sound + ((<usize>((now - ahead) & mask)) << 4)), sub(splat(1), lack)),
      );
      // Decibels taken off, per 60, as of the dynamics.
      put(instance, P.OUT_REDUCTION, g, f, mul(log2(sub(splat(1), lack)), splat(-DB_PER_OCTAVE / 60)));
    }
    v128.store(state + P.STATE_LACK, lack);
  }
}
