import * as P from "../../../generated/shaper.as";
import { scratch } from "../../../kernels/scratch.as";
import { oversampling } from "../../../kernels/time.as";
import { gainOfDb } from "../../../kernels/levels.as";
import { dcCoefficient, withoutDc } from "../../../kernels/onepole.as";
import { downsample, upsample } from "../../../kernels/oversample.as";
import { add, clamp, div, madd, mixed, mul, select, splat, sub } from "../../../kernels/simd.as";

const POINTS: f32 = 1024;
const SPACING: f32 = 2 / 1024;
const LEAST_STEP: f32 = 0.004;

let curveValue: v128 = f32x4.splat(0),
  curveIntegral: v128 = f32x4.splat(0);


@inline function entry(table: usize, at: v128, offset: usize): v128 {
  return f32x4(
    load<f32>(table + <usize>i32x4.extract_lane(at, 0) + offset),
    load<f32>(table + <usize>i32x4.extract_lane(at, 1) + offset),
    load<f32>(table + <usize>i32x4.extract_lane(at, 2) + offset),
    load<f32>(table + <usize>i32x4.extract_lane(at, 3) + offset),
  );
}

/** Curve and integral at u, both level and straight beyond ±1. */
function lookUpCurve(table: usize, u: v128): void {
  const inside = clamp(u, splat(-1), splat(1));
  const place = mul(add(inside, splat(1)), splat(POINTS / 2));
  const whole = i32x4.trunc_sat_f32x4_s(place),
    t = sub(place, f32x4.convert_i32x4_s(whole)),
    at = i32x4.shl(whole, 3);
  const a = entry(table, at, 0),
    b = entry(table, at, 8),
    base = entry(table, at, 4);
  const slope = sub(b, a);
  curveValue = madd(slope, t, a);
  const dx = mul(t, splat(SPACING));
  curveIntegral = add(madd(dx, madd(mul(slope, splat(0.5)), t, a), base), mul(sub(u, inside), curveValue));
}

export function process(m: P.Module, frame: u32, frames: u32): void {
  const input = m.in,
    out = m.outOut,
    dc = splat(dcCoefficient()),
    table = m.table;
  const inLoop = out.isFixed;
  const gain = m.gain,
    mix = m.mix;
  for (let g: u32 = 0, groups = m.groups; g < groups; ++g) {
    const state = m.state(g);
    const x = input.row(g, frame),
      xs = input.step(g),
      gp = gain.row(g, frame),
      gs = gain.step(g);
    const driven = scratch(0),
      wet = scratch(2),
      fixedGain = gainOfDb(v128.load(gp));
    for (let f: u32 = 0; f < frames; ++f)
      v128.store(
        driven + (f << 4),
        mul(v128.load(x + f * xs), gs ? gainOfDb(v128.load(gp + f * gs)) : fixedGain),
      );
    let dry = x,
      dryStride = xs;
    if (inLoop) {
      for (let f: u32 = 0; f < frames; ++f) {
        lookUpCurve(table, v128.load(driven + (f << 4)));
        v128.store(wet + (f << 4), curveValue);
      }
    } else {
      const row = upsample(state.overAt, driven, 16, frames),
        last = state.lastAt;
      for (let p = row, end = row + ((<usize>(frames * oversampling)) << 4); p < end; p += 16) {
        const u = v128.load(p),
          before = v128.load(last);
        lookUpCurve(table, u);
        const step = sub(u, before),
          small = f32x4.lt(f32x4.abs(step), splat(LEAST_STEP));
        const quotient = div(sub(curveIntegral, v128.load(last, 16)), select(splat(1), step, small));
        v128.store(last, u);
        v128.store(last, curveIntegral, 16);
        v128.store(p, select(curveValue, quotient, small));
      }
      downsample(state.overAt, row, wet, frames);
      if (!mix.isConstant(g) || v128.any_true(f32x4.ne(v128.load(mix.row(g, frame)), splat(1)))) {
        dry = scratch(1);
        dryStride = 16;
        downsample(state.dryAt, upsample(state.dryAt, x, xs, frames), dry, frames);
      }
    }
    let mp = mix.row(g, frame);
    const ms = mix.step(g),
      q = out.write(g, frame);
    for (let f: u32 = 0; f < frames; ++f) {
      const y = withoutDc(state.dcAt, v128.load(wet + (f << 4)), dc),
        d = v128.load(dry + f * dryStride);
      v128.store(q + (f << 4), mixed(d, y, v128.load(mp)));
      mp += ms;
    }
  }
}
