// Grains: up to 64 pieces of a recording, or of what came in, each with a window, a speed and a place between the sides
// of its own. They start on the frame; all that is random hangs on the seed, the voice and the number of the grain.
import { firstOf, numberOf } from "../../../kernels/lanes.as";
import * as P from "../../../generated/grains.as";
import { scratch } from "../../../kernels/scratch.as";
import { Signal } from "../../../kernels/signal.as";
import { readLeft, readRight, readSinc, SILENCE } from "../../../kernels/sinc.as";
import { exp2, log2, mul, sineOfCycles, splat } from "../../../kernels/simd.as";
import { NOWHERE, tell } from "../../../kernels/telling.as";
import { sampleRate } from "../../../kernels/time.as";

const MOST: u32 = 64,
  GRAIN_BYTES: usize = 64,
  CLOUD_BYTES: usize = 128,
  HEAD: usize = 16;
/** Samples around a place that reading needs. */
const REACH: f64 = 18;
/** A window rises and falls over so many frames at least. */
const LEAST_EDGE: f32 = 24;
/** Mean power of a window. */
const WINDOW_POWER: f32 = 0.375;
/** Quarter of a cycle for the way from nothing to full. */
const HALF: f32 = 0.5;
const WET: u32 = 0;


@unmanaged
class Grain {
  place: f64;
  speed: f64;
  age: u32;
  length: u32;
  /** Frames of the rise. */
  rise: f32;
  left: f32;
  right: f32;
}

/** A voice. */
@unmanaged
class Cloud {
  /** Frames to the next grain. */
  due: f64;
  /** How far the position has moved along, in frames. */
  moved: f64;
  /** Frames written to the ring, and grains started. */
  written: u32;
  count: u32;
  gate: u32;
  isStarted: u32;
  /** Grains that sound. */
  sounding: u32;
}

/** Where the sound is. */
@unmanaged
class Sound {
  left: usize;
  right: usize;
  frames: i32;
  isLive: u32;
}
const SOUND: usize = memory.data(32, 16);
/** Even within 0…1, the same for the same grain and use. */
function chance(seed: u32, count: u32, use: u32): f32 {
  let h = seed + count * 0x9e3779b1 + use * 0x85ebca6b;
  h ^= h >> 16;
  h *= 0x7feb352d;
  h ^= h >> 15;
  h *= 0x846ca68b;
  h ^= h >> 16;
  return <f32>(h >> 8) * 5.9604644775390625e-8;
}

function soundOf(m: P.Module, memory_: usize, voiceBytes: usize): Sound {
  const s = changetype<Sound>(SOUND);
  if (m.source == P.SOURCE_INPUT) {
    const frames = (voiceBytes - MOST * GRAIN_BYTES) >> 3;
    s.left = memory_ + MOST * GRAIN_BYTES;
    s.right = s.left + (frames << 2);
    s.frames = <i32>frames;
    s.isLive = 1;
    return s;
  }
  const channels = load<u32>(m.table),
    frames = load<u32>(m.table, 4);
  s.left = m.table + HEAD;
  s.right = channels > 1 ? s.left + ((<usize>frames) << 2) : s.left;
  s.frames = channels > 0 ? <i32>frames : 0;
  s.isLive = 0;
  return s;
}

/** Where a grain begins, in samples of the sound; live, far enough behind what is written. */
function placeFor(
  m: P.Module,
  c: Cloud,
  s: Sound,
  g: u32,
  f: u32,
  lane: usize,
  seed: u32,
  speed: f64,
  length: f64,
): f64 {
  const spray = <f64>(numberOf(m.spray, g, f, lane) * (chance(seed, c.count, 1) - 0.5)),
    position = <f64>numberOf(m.position, g, f, lane);
  if (s.isLive) {
    const history = <f64>m.history * <f64>sampleRate;
    let back = position * history - c.moved + spray * history;
    // Back into the history, as often as it takes.
    back -= floor(back / history) * history;
    // A fast grain would overtake what is written, a backward one leaves what is kept.
    const least = max((speed - 1) * length, 0) + REACH * max(abs(speed), 1),
      most = <f64>s.frames - max((1 - speed) * length, 0) - 2 * REACH * max(abs(speed), 1);
    return <f64>c.written - min(max(back, least), max(most, least));
  }
  const frames = <f64>s.frames;
  let place = position * frames + c.moved + spray * frames;
  place -= floor(place / frames) * frames;
  return speed < 0 ? place + abs(speed) * length : place;
}

/** Where grains of a recording begin, spray aside, as a share of it. */
function headOf(m: P.Module, c: Cloud, s: Sound, g: u32, f: u32, lane: usize): f32 {
  const share = <f64>numberOf(m.position, g, f, lane) + c.moved / <f64>s.frames;
  return <f32>(share - floor(share));
}

function startGrain(
  m: P.Module,
  c: Cloud,
  s: Sound,
  grains: usize,
  g: u32,
  f: u32,
  lane: usize,
  seed: u32,
): void {
  c.count += 1;
  let free: usize = 0;
  for (let n: u32 = 0; n < MOST && free == 0; ++n) {
    const grain = changetype<Grain>(grains + n * GRAIN_BYTES);
    if (grain.length == 0) free = changetype<usize>(grain);
  }
  if (free == 0 || s.frames < 2) return;
  const grain = changetype<Grain>(free),
    length = max<f32>(numberOf(m.size, g, f, lane) * sampleRate * 0.001, 2 * LEAST_EDGE);
  const spread = numberOf(m.pitchSpread, g, f, lane) * (2 * chance(seed, c.count, 2) - 1);
  const octaves: f32 =
    (m.pitch.isCabled ? numberOf(m.pitch, g, f, lane) : 0) +
    (numberOf(m.semitones, g, f, lane) + spread) / 12;
  const faster: f64 = octaves == 0 ? 1 : <f64>firstOf(exp2(splat(octaves))),
    speed = chance(seed, c.count, 3) < numberOf(m.reverse, g, f, lane) ? -faster : faster;
  grain.speed = speed;
  grain.place = placeFor(m, c, s, g, f, lane, seed, speed, <f64>length);
  grain.age = 0;
  grain.length = <u32>length;
  const peak: f32 = HALF - 0.49 * numberOf(m.shape, g, f, lane);
  grain.rise = min<f32>(max<f32>(peak * length, LEAST_EDGE), length - LEAST_EDGE);
  // Equal power between the sides; as many as sound at once add up by their power.
  const pan = numberOf(m.pan, g, f, lane) * (2 * chance(seed, c.count, 4) - 1),
    overlap = max<f32>(1, (numberOf(m.density, g, f, lane) * length * WINDOW_POWER) / sampleRate);
  const loud: f32 = 1.4142135 / sqrt<f32>(overlap);
  grain.left = loud * firstOf(sineOfCycles(splat(0.125 - 0.125 * pan)));
  grain.right = loud * firstOf(sineOfCycles(splat(0.125 + 0.125 * pan)));
  c.sounding += 1;
}

/** Frames to the next grain: evenly, or as chance has it (Poisson), or between. */
function intervalFor(m: P.Module, c: Cloud, g: u32, f: u32, lane: usize, seed: u32): f64 {
  const jitter = numberOf(m.jitter, g, f, lane),
    drawn = -firstOf(log2(splat(1 - chance(seed, c.count, 5)))) * <f32>0.6931472;
  return (<f64>sampleRate / <f64>numberOf(m.density, g, f, lane)) * <f64>(1 - jitter + jitter * drawn);
}

/** Everything that happens at a frame but sounding: what comes in is written; does a grain start? */
function attend(m: P.Module, c: Cloud, s: Sound, g: u32, f: u32, lane: usize): bool {
  const isFrozen = numberOf(m.freeze, g, f, lane) > 0.5;
  if (s.isLive && !isFrozen) {
    const slot = (<usize>(c.written % <u32>s.frames)) << 2,
      x = m.in.row(g, f) + lane;
    store<f32>(s.left + slot, finite(load<f32>(x)));
    store<f32>(s.right + slot, finite(load<f32>(x, 4)));
    c.written += 1;
  }
  if (!isFrozen && c.isStarted != 0) c.moved += <f64>numberOf(m.scan, g, f, lane);
  const isFirst = c.isStarted == 0;
  c.isStarted = 1;
  if (m.trigger.isCabled) {
    const gate: u32 = numberOf(m.trigger, g, f, lane) > 0.5 ? 1 : 0,
      rises = gate != 0 && c.gate == 0;
    c.gate = gate;
    return rises;
  }
  c.due = isFirst ? 0 : c.due - 1;
  return c.due <= 0;
}


@inline function finite(x: f32): f32 {
  return abs(x) < 1e6 ? x : 0;
}

/** One grain from one frame of a block to another; pairs 16 bytes apart at `wet`. */
function sound(grain: Grain, s: Sound, c: Cloud, from: u32, to: u32, wet: usize): void {
  const length = <f32>grain.length,
    fall = length - grain.rise,
    beyond = s.isLive != 0 ? 0 : SILENCE;
  for (let f = from; f < to; ++f) {
    const age = <f32>grain.age + 0.5,
      way = age < grain.rise ? age / grain.rise : (length - age) / fall;
    // (1 - cos) / 2 = sin^2 of half.
    const sine = firstOf(sineOfCycles(splat(0.25 * way))),
      w = sine * sine;
    readSinc(s.left, s.right, s.frames, grain.place, grain.speed, beyond);
    const at = wet + ((<usize>f) << 4);
    store<f32>(at, load<f32>(at) + readLeft * w * grain.left);
    store<f32>(at, load<f32>(at, 4) + readRight * w * grain.right, 4);
    grain.place += grain.speed;
    grain.age += 1;
    if (grain.age < grain.length) continue;
    grain.length = 0;
    c.sounding -= 1;
    return;
  }
}
function soundAll(grains: usize, s: Sound, c: Cloud, from: u32, to: u32, wet: usize): void {
  for (let n: u32 = 0; c.sounding > 0 && n < MOST; ++n) {
    const grain = changetype<Grain>(grains + n * GRAIN_BYTES);
    if (grain.length > 0) sound(grain, s, c, from, to, wet);
  }
}

export function process(m: P.Module, frame: u32, frames: u32): void {
  const voiceBytes = m.auxBytes / m.voiceCount,
    wet = scratch(WET);
  if (m.source == P.SOURCE_ASSET && load<u32>(m.table) == 0) {
    for (let g: u32 = 0, groups = m.groups; g < groups; ++g) m.outOut.fill(g, frame, frames, splat(0));
    m.rest();
    return;
  }
  for (let g: u32 = 0, groups = m.groups; g < groups; ++g) {
    const state = m.state(g);
    memory.fill(wet, 0, (<usize>frames) << 4);
    for (let v: u32 = 0; v < 2 && (g << 1) + v < m.voiceCount; ++v) {
      const voice = (g << 1) + v,
        grains = m.aux + <usize>voice * voiceBytes,
        c = changetype<Cloud>(state.cloudsAt + v * CLOUD_BYTES),
        s = soundOf(m, grains, voiceBytes),
        lane = (<usize>v) << 3,
        seed = m.seed + voice * 0x27d4eb2f;
      let done: u32 = 0;
      for (let f: u32 = 0; f < frames; ++f) {
        if (!attend(m, c, s, g, frame + f, lane)) continue;
        // What sounds comes up to here first: a place that is free then is free whatever the blocks.
        soundAll(grains, s, c, done, f, wet + lane);
        done = f;
        startGrain(m, c, s, grains, g, frame + f, lane, seed);
        if (!m.trigger.isCabled) c.due += max(intervalFor(m, c, g, frame + f, lane, seed), 1);
      }
      soundAll(grains, s, c, done, frames, wet + lane);
      if (m.outHead.isWanted)
        tell(m.outHead, voice, s.isLive ? NOWHERE : headOf(m, c, s, g, frame + frames - 1, lane));
    }
    for (let f: u32 = 0; f < frames; ++f)
      m.outOut.put(g, frame + f, mul(v128.load(wet + ((<usize>f) << 4)), m.level.at(g, frame + f)));
  }
}
