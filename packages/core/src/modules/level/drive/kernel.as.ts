import * as P from "../../../generated/drive.as";
import { scratch } from "../../../kernels/scratch.as";
import { oversampling } from "../../../kernels/time.as";
import { gainOfDb } from "../../../kernels/levels.as";
import { dcCoefficient, tiltCoefficient, tilted, withoutDc } from "../../../kernels/onepole.as";
import { downsample } from "../../../kernels/oversample.as";
import { dryRow, gainRow, hearsDry, upsampleDriven } from "../../../kernels/oversampled.as";
import { curveNow, shapeRow } from "../../../kernels/shapes.as";
import { isQuiet } from "../../../kernels/quiet.as";
import { madd, mixed, mul, splat } from "../../../kernels/simd.as";

const GAINS: u32 = 0,
  DRY: u32 = 1,
  WET: u32 = 2;

export function process(m: P.Module, frame: u32, frames: u32): void {
  const input = m.in,
    out = m.outOut;
  const kind = m.curve,
    dc = splat(dcCoefficient()),
    tilt = splat(tiltCoefficient());
  const inLoop = out.isFixed;
  const gain = m.gain,
    bias = m.bias,
    tone = m.tone,
    mix = m.mix,
    level = m.output;
  let resting = true;
  for (let g: u32 = 0, groups = m.groups; g < groups; ++g) {
    const state = m.state(g);
    // Silence in and nothing left inside: silence.
    if (
      m.settled(g) &&
      isQuiet(input, g, frame, state.address, 100) &&
      !v128.any_true(v128.load(bias.row(g, frame)))
    ) {
      out.fill(g, frame, frames, splat(0));
      continue;
    }
    resting = false;
    const x = input.row(g, frame),
      xs = input.step(g),
      bp = bias.row(g, frame),
      bs = bias.step(g);
    const wet = scratch(WET),
      gains = scratch(GAINS);
    let dry = x,
      dryStride = xs;
    gainRow(gain.row(g, frame), gain.step(g), gains, frames);
    if (inLoop) {
      for (let f: u32 = 0; f < frames; ++f)
        v128.store(
          wet + (f << 4),
          curveNow(kind, madd(v128.load(x + f * xs), v128.load(gains + (f << 4)), v128.load(bp + f * bs))),
        );
    } else {
      const row = upsampleDriven(state.overAt, state.gainBeforeAt, x, xs, gains, bp, bs, frames);
      shapeRow(kind, state.lastAt, row, frames * oversampling);
      downsample(state.overAt, row, wet, frames);
      if (hearsDry(mix, g, frame)) {
        dry = scratch(DRY);
        dryStride = 16;
        dryRow(state.dryAt, x, xs, dry, frames);
      }
    }
    let tp = tone.row(g, frame),
      mp = mix.row(g, frame),
      lp = level.row(g, frame),
      q = out.write(g, frame);
    const ts = tone.step(g),
      ms = mix.step(g),
      ls = level.step(g),
      fixedLevel = gainOfDb(v128.load(lp));
    for (let f: u32 = 0; f < frames; ++f) {
      const y = tilted(
        state.tiltAt,
        withoutDc(state.dcAt, v128.load(wet + (f << 4)), dc),
        v128.load(tp),
        tilt,
      );
      const d = v128.load(dry + f * dryStride);
      v128.store(q, mul(mixed(d, y, v128.load(mp)), ls ? gainOfDb(v128.load(lp)) : fixedLevel));
      tp += ts;
      mp += ms;
      lp += ls;
      q += 16;
    }
  }
  if (resting) m.rest();
}
