// Spring: after Välimäki, Parker & Abel, "Parametric spring reverberation effect" (2010): a long chain of all-passes, each
// stretched over K samples, in a loop with a delay. Up to half the rate over K the chain delays more the higher it is:
// chirps. Above that it repeats, mirrored, and is filtered out beforehand. Four lanes are two springs, left and right.
import { highPass } from "../../../kernels/onepole.as";
import { firstOf, numberOf } from "../../../kernels/lanes.as";
import * as P from "../../../generated/spring.as";
import { Counting } from "../../../kernels/counting.as";
import { bandOf, lowOf, tangentOfShare } from "../../../kernels/filters.as";
import { DECAY_OCTAVES } from "../../../kernels/levels.as";
import { scratch } from "../../../kernels/scratch.as";
import { Signal } from "../../../kernels/signal.as";
import { add, div, exp2, madd, mixed, mul, splat, sub } from "../../../kernels/simd.as";
import { sampleRate, time } from "../../../kernels/time.as";
import { INPUT, ROW, runBank, TABLE_RING, TABLE_STAGES, TABLE_WAYS, Tank, WET } from "./bank.as";

/** Ways are so many octaves longer where the springs are loosest. */
const LOOSEST_OCTAVES: f32 = 0.5058909;
const LOW_HERTZ: f32 = 70;
/** Highest that goes in, as a share of where the chirp ends, and the dampings of a Butterworth filter of fourth order. */
const TOP: f32 = 0.93,
  DAMPING_ONE: f32 = 0.76536686,
  DAMPING_TWO: f32 = 1.847759;
/** Springs lose highs on every way. */
const LOSS_HERTZ: f32 = 5200;
const SPREAD_LOOSE: f32 = 0.7,
  SPREAD_RANGE: f32 = 0.2;
const NEAR_SECONDS: f32 = 0.02,
  FADE_SECONDS: f32 = 0.02;
/** As loud as what comes in, at the usual settings. */
const LEVEL: f32 = 0.74;
/** What each side hears of the other: so much that both together lose little. */
const ACROSS: f32 = 0.06;
const FILTER_BYTES: usize = 128,
  TANK_BYTES: usize = 256;

/** Once in K frames: where the springs are bent to, and what a way costs. */
function settle(m: P.Module, tank: Tank, stretch: u32, g: u32, frame: u32, lane: usize): void {
  const starts = tank.isStarted == 0,
    tension = numberOf(m.tension, g, frame, lane),
    step = min<f32>(1, <f32>stretch / (NEAR_SECONDS * sampleRate));
  tank.isStarted = 1;
  if (starts) {
    const low = tangentOfShare(splat(LOW_HERTZ / sampleRate)),
      loss = tangentOfShare(splat(LOSS_HERTZ / sampleRate));
    tank.low = firstOf(div(low, add(low, splat(1))));
    tank.loss = firstOf(div(loss, add(loss, splat(1))));
    tank.top = firstOf(tangentOfShare(splat((0.5 * TOP) / <f32>stretch)));
  }
  const spread: f32 = SPREAD_LOOSE - SPREAD_RANGE * tension,
    decay = numberOf(m.decay, g, frame, lane);
  tank.spread = starts ? spread : tank.spread + (spread - tank.spread) * step;
  tank.decay = starts ? decay : tank.decay + (decay - tank.decay) * step;
  const perMs = mul(exp2(splat(LOOSEST_OCTAVES * (1 - 2 * tension))), splat(sampleRate * 0.001));
  // In the lows the chain takes K (1 - a) / (1 + a) a stage.
  const chain: f32 =
    (<f32>stretch * load<f32>(m.table + TABLE_STAGES) * (1 - tank.spread)) / (1 + tank.spread);
  for (let bank: usize = 0; bank < 2; ++bank) {
    const goalAt = tank.address + 64 + (bank << 4),
      wayAt = goalAt + 32;
    const goal = f32x4.nearest(mul(v128.load(m.table + TABLE_WAYS + (bank << 4)), perMs));
    v128.store(wayAt, starts ? splat(0) : add(v128.load(wayAt), sub(v128.load(goalAt), goal)));
    v128.store(goalAt, goal);
    v128.store(
      wayAt + 32,
      exp2(mul(add(goal, splat(chain)), splat(DECAY_OCTAVES / (tank.decay * sampleRate)))),
    );
  }
}

/** What goes in: without lows and without what lies above the chirp; the same for both springs of a bank. */
@inline function filtered(filters: usize, x: v128, low: v128, top: v128): v128 {
  const above = highPass(filters, x, low);
  const one = lowOf(filters + 16, bandOf(filters + 16, above, top, splat(DAMPING_ONE)), top);
  return lowOf(filters + 48, bandOf(filters + 48, one, top, splat(DAMPING_TWO)), top);
}

/** Frames of one voice up to the next multiple of K; wet sound as pairs 16 bytes apart. */
function run(
  m: P.Module,
  tank: Tank,
  memory_: usize,
  filters: usize,
  now: u32,
  frames: u32,
  input: usize,
  step: usize,
  springs: usize,
  springsStep: usize,
  wet: usize,
): void {
  const stretch = <u32>load<f32>(m.table),
    low = splat(tank.low),
    top = splat(tank.top),
    row = scratch(INPUT);
  let any = splat(0);
  for (let f: u32 = 0; f < frames; ++f) {
    const x = v128.load64_splat(input + f * step);
    any = v128.or(any, x);
    v128.store(row + (f << 4), filtered(filters, x, low, top));
  }
  const counting = Counting.at(tank.address),
    fade: f32 = 1 / (FADE_SECONDS * sampleRate),
    all = scratch(WET + 4);
  // How much of each spring is there, frame by frame.
  let third = false;
  for (let f: u32 = 0; f < frames; ++f) {
    counting.move(splat(nearest(load<f32>(springs + f * springsStep))), fade);
    const two = counting.presence(2),
      three = counting.presence(3);
    third = third || v128.any_true(three);
    v128.store(all + (f << 5), two);
    v128.store(all + (f << 5), three, 16);
  }
  any = v128.or(any, runBank(m, tank, memory_, 0, filters + 80, now, frames, splat(tank.loss)));
  if (third) {
    any = v128.or(any, runBank(m, tank, memory_, 1, filters + 96, now, frames, splat(tank.loss)));
    tank.age = min<u32>(tank.age + frames, 0x40000000);
  } else {
    memory.fill(scratch(ROW + 1), 0, (<usize>frames) << 4);
    tank.age = 0;
  }
  for (let f: u32 = 0; f < frames; ++f) {
    const two = v128.load(all + (f << 5)),
      three = v128.load(all + (f << 5), 16);
    const y = v128.load(scratch(ROW) + (f << 4)),
      z = v128.load(scratch(ROW + 1) + (f << 4));
    const own = madd(three, z, madd(two, v128.shuffle<i64>(y, y, 1, 1), y)),
      sum = madd(splat(ACROSS), v128.shuffle<i32>(own, own, 1, 0, 3, 2), own),
      loud = div(splat(LEVEL), f32x4.sqrt(add(add(splat(1), two), three)));
    v128.store64_lane(wet + (f << 4), mul(sum, loud), 0);
  }
  tank.quiet = v128.any_true(any) ? 0 : min<u32>(tank.quiet + frames, 0x40000000);
  tank.slot = (tank.slot + frames) % stretch;
}

export function process(m: P.Module, frame: u32, frames: u32): void {
  const input = m.in,
    voiceBytes = m.auxBytes / m.voiceCount,
    stretch = <u32>load<f32>(m.table),
    ringFrames = <u32>load<f32>(m.table, TABLE_RING),
    wet = scratch(WET);
  let resting = true;
  for (let g: u32 = 0, groups = m.groups; g < groups; ++g) {
    const state = m.state(g),
      isSilent = input.isConstant(g) && !v128.any_true(v128.load(input.row(g, frame)));
    memory.fill(wet, 0, 2048);
    let rests = true;
    for (let v: u32 = 0; v < 2 && (g << 1) + v < m.voiceCount; ++v) {
      const tank = changetype<Tank>(state.tanksAt + v * TANK_BYTES);
      if (isSilent && tank.quiet > ringFrames) continue;
      rests = false;
      for (let f: u32 = 0; f < frames;) {
        const count = min<u32>(stretch - tank.slot, frames - f);
        if (tank.slot == 0 || tank.isStarted == 0) settle(m, tank, stretch, g, frame + f, v << 3);
        run(
          m,
          tank,
          m.aux + <usize>((g << 1) + v) * voiceBytes,
          state.filtersAt + v * FILTER_BYTES,
          time + frame + f,
          count,
          input.row(g, frame + f) + (v << 3),
          input.step(g),
          m.springs.row(g, frame + f) + (v << 3),
          m.springs.step(g),
          wet + (f << 4) + (v << 3),
        );
        f += count;
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
        mixed(input.at(g, frame + f), v128.load(wet + (f << 4)), m.mix.at(g, frame + f)),
      );
  }
  if (resting) m.rest();
}
