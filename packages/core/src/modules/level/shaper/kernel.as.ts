import * as P from "../../../generated/shaper.as";
import { scratch } from "../../../kernels/scratch.as";
import { oversampling } from "../../../kernels/time.as";
import { dcCoefficient, withoutDc } from "../../../kernels/onepole.as";
import { downsample, upsample } from "../../../kernels/oversample.as";
import { dryRow, gainRow, hearsDry } from "../../../kernels/oversampled.as";
import { add, clamp, div, madd, mixed, mul, select, splat, sub } from "../../../kernels/simd.as";

const POINTS: f32 = 1024;
const SPACING: f32 = 2 / 1024;
const LEAST_STEP: f32 = 0.004;

/** A curve and its integral at one place. */
@unmanaged
class Place {
  value: v128;
  integral: v128;
}
const DRIVEN: u32 = 0,
  DRY: u32 = 1,
  WET: u32 = 2,
  PLACE: u32 = 3;


@inline function entry(table: usize, at: v128, offset: usize): v128 {
  return f32x4(
    load<f32>(table + <usize>i32x4.extract_lane(at, 0) + offset),
    load<f32>(table + <usize>i32x4.extract_lane(at, 1) + offset),
    load<f32>(table + <usize>i32x4.extract_lane(at, 2) + offset),
    load<f32>(table + <usize>i32x4.extract_lane(at, 3) + offset),
  );
}

/** Curve and integral at u, level and straight beyond ±1. */
function lookUpCurve(table: usize, u: v128, found: Place): void {
  const inside = clamp(u, splat(-1), splat(1));
  const place = mul(add(inside, splat(1)), splat(POINTS / 2));
  const whole = i32x4.trunc_sat_f32x4_s(place),
    t = sub(place, f32x4.convert_i32x4_s(whole)),
    at = i32x4.shl(whole, 3);
  const a = entry(table, at, 0),
    b = entry(table, at, 8),
    base = entry(table, at, 4);
  const slope = sub(b, a);
  const value = madd(slope, t, a),
    dx = mul(t, splat(SPACING));
  found.value = value;
  found.integral = add(madd(dx, madd(mul(slope, splat(0.5)), t, a), base), mul(sub(u, inside), value));
}

export function process(m: P.Module, frame: u32, frames: u32): void {
  const input = m.in,
    out = m.outOut,
    dc = splat(dcCoefficient()),
    table = m.table;
  const inLoop = out.isFixed;
  const gain = m.gain,
    mix = m.mix,
    place = changetype<Place>(scratch(PLACE));
  for (let g: u32 = 0, groups = m.groups; g < groups; ++g) {
    const state = m.state(g);
    const x = input.row(g, frame),
      xs = input.step(g);
    const driven = scratch(DRIVEN),
      wet = scratch(WET);
    gainRow(gain.row(g, frame), gain.step(g), driven, frames);
    for (let f: u32 = 0; f < frames; ++f)
      v128.store(driven + (f << 4), mul(v128.load(x + f * xs), v128.load(driven + (f << 4))));
    let dry = x,
      dryStride = xs;
    if (inLoop) {
      for (let f: u32 = 0; f < frames; ++f) {
        lookUpCurve(table, v128.load(driven + (f << 4)), place);
        v128.store(wet + (f << 4), place.value);
      }
    } else {
      const row = upsample(state.overAt, driven, 16, frames),
        last = state.lastAt;
      for (let p = row, end = row + ((<usize>(frames * oversampling)) << 4); p < end; p += 16) {
        const u = v128.load(p),
          before = v128.load(last);
        lookUpCurve(table, u, place);
        const step = sub(u, before),
          small = f32x4.lt(f32x4.abs(step), splat(LEAST_STEP));
        const quotient = div(sub(place.integral, v128.load(last, 16)), select(splat(1), step, small));
        v128.store(last, u);
        v128.store(last, place.integral, 16);
        v128.store(p, select(place.value, quotient, small));
      }
      downsample(state.overAt, row, wet, frames);
      if (hearsDry(mix, g, frame)) {
        dry = scratch(DRY);
        dryStride = 16;
        dryRow(state.dryAt, x, xs, dry, frames);
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
