// Player: a recording, read at any speed. Where it begins, ends or jumps it fades over a millisecond; a whole loop goes
// round without a seam.
import { numberOf } from "../../../kernels/lanes.as";
import * as P from "../../../generated/player.as";
import { triggerFrames } from "../../../kernels/pulses.as";
import { scratch } from "../../../kernels/scratch.as";
import { Signal } from "../../../kernels/signal.as";
import { readLeft, readRight, readSinc, SILENCE } from "../../../kernels/sinc.as";
import { mul, splat } from "../../../kernels/simd.as";
import { NOWHERE, tell } from "../../../kernels/telling.as";
import { beatsPerFrame, running, sampleRate, starts } from "../../../kernels/time.as";

const HEAD: usize = 16;
const FADE_SECONDS: f32 = 0.001;
/** Tempos that a length is taken for: from this on, and up to twice as much. */
const SLOWEST: f64 = 75;
const WET: u32 = 0;
const PLAYER_BYTES: usize = 64;

/** A voice. */
@unmanaged
class Player {
  place: f64;
  /** Where the last run went on while the new one fades in. */
  last: f64;
  isStarted: u32;
  isPlaying: u32;
  /** Frames of the fade that are left; of the end. */
  fading: u32;
  /** Something fades out: the run before. */
  hasLast: u32;
  gates: u32;
  startLeft: i32;
  doneLeft: i32;
  slice: i32;
  heard: u32;
}

/** What is played and how: worked out at every frame. */
@unmanaged
class Part {
  first: f64;
  limit: f64;
  speed: f64;
  isRound: u32;
  loops: u32;


  @inline get length(): f64 {
    return this.limit - this.first;
  }
}
const PART: usize = memory.data(48, 16);

/** Beats of a length in seconds: as many halvings and doublings of one as give a usual tempo. */
function guessedBeats(seconds: f64): f64 {
  if (seconds <= 0) return 1;
  let beats = 1.0;
  while ((60 * beats) / seconds < SLOWEST && beats < 256) beats *= 2;
  return beats;
}

function partAt(m: P.Module, p: Player, g: u32, frame: u32, lane: usize): Part {
  const part = changetype<Part>(PART),
    frames = <f64>load<u32>(m.table, 4),
    a = <f64>numberOf(m.from, g, frame, lane),
    b = <f64>numberOf(m.to, g, frame, lane);
  const from = floor(min(a, b) * frames),
    to = max(floor(max(a, b) * frames), from + 1);
  part.loops = numberOf(m.loop, g, frame, lane) > 0.5 ? 1 : 0;
  part.isRound = part.loops != 0 && from == 0 && to == frames && p.slice < 0 ? 1 : 0;
  part.speed = <f64>numberOf(m.speed, g, frame, lane);
  if (m.sync == P.SYNC_TEMPO) {
    const share = (to - from) / frames,
      seconds = <f64>load<f32>(m.table, 8) * share,
      set = <f64>numberOf(m.beats, g, frame, lane),
      beats = set > 0 ? set : guessedBeats(seconds);
    part.speed *= ((to - from) * beatsPerFrame) / beats;
  }
  part.first = from;
  part.limit = to;
  const slices = <i32>nearest(numberOf(m.slices, g, frame, lane));
  if (slices > 0 && p.slice >= 0) {
    const each = (to - from) / <f64>slices,
      n = min(p.slice, slices - 1);
    part.first = floor(from + each * <f64>n);
    part.limit = max(floor(from + each * <f64>(n + 1)), part.first + 1);
  }
  return part;
}

/** Begins at the start of its part, what was heard before fading out. */
function begin(p: Player, part: Part): void {
  if (p.isPlaying) jump(p);
  p.isPlaying = 1;
  p.place = part.speed < 0 ? part.limit - 1 : part.first;
  if (!p.hasLast) p.fading = fadeFrames();
  p.startLeft = triggerFrames();
}


@inline function fadeFrames(): u32 {
  return <u32>(FADE_SECONDS * sampleRate);
}


@inline function jump(p: Player): void {
  p.last = p.place;
  p.hasLast = 1;
  p.fading = fadeFrames();
}

/** Goes on by a frame: round, back to the start with a fade, or to the end. */
function advance(p: Player, part: Part): void {
  p.place += part.speed;
  if (p.hasLast) p.last += part.speed;
  if (p.fading > 0) p.fading -= 1;
  if (p.fading == 0) p.hasLast = 0;
  if (part.isRound) {
    if (p.place >= part.limit || p.place < part.first) {
      p.place -= floor((p.place - part.first) / part.length) * part.length;
      p.startLeft = triggerFrames();
      p.doneLeft = p.startLeft;
    }
    return;
  }
  const isOver = part.speed < 0 ? p.place < part.first : p.place >= part.limit;
  if (!isOver) return;
  p.doneLeft = triggerFrames();
  jump(p);
  if (part.loops) {
    p.place -= floor((p.place - part.first) / part.length) * part.length;
    p.startLeft = p.doneLeft;
  } else p.isPlaying = 0;
}

/** Rises at trigger and reset: bits 0 and 1 of what was high before. */
function listen(m: P.Module, p: Player, g: u32, frame: u32, lane: usize): bool {
  const trigger: u32 = numberOf(m.trigger, g, frame, lane) > 0.5 ? 1 : 0,
    reset: u32 = numberOf(m.reset, g, frame, lane) > 0.5 ? 2 : 0,
    now = trigger | reset,
    rises = now & ~p.gates;
  p.gates = now;
  if (p.isStarted == 0 || p.heard != starts) {
    const isFirst = p.isStarted == 0;
    p.isStarted = 1;
    p.heard = starts;
    p.slice = isFirst ? -1 : p.slice;
    if (!m.trigger.isCabled) return true;
  }
  if ((rises & 1) != 0) {
    const slices = nearest(numberOf(m.slices, g, frame, lane));
    p.slice =
      slices > 0 ? <i32>min<f32>(max<f32>(numberOf(m.slice, g, frame, lane), 0) * slices, slices - 1) : -1;
  }
  return rises != 0;
}

/** One frame of a voice: both sides at `out`. */
@inline function play(m: P.Module, p: Player, part: Part, out: usize): void {
  const channels = load<u32>(m.table),
    frames = <i32>load<u32>(m.table, 4),
    data = m.table + HEAD,
    other = channels > 1 ? data + ((<usize>frames) << 2) : data;
  if (channels == 0 || (!p.isPlaying && !p.hasLast)) {
    v128.store64_lane(out, splat(0), 0);
    return;
  }
  const beyond = part.isRound != 0 ? 0 : SILENCE;
  let l: f32 = 0,
    r: f32 = 0;
  const w: f32 = p.fading > 0 ? 1 - <f32>p.fading / <f32>fadeFrames() : 1;
  if (p.isPlaying) {
    readSinc(data, other, frames, p.place, part.speed, beyond);
    l = w * readLeft;
    r = w * readRight;
  }
  if (p.hasLast) {
    readSinc(data, other, frames, p.last, part.speed, beyond);
    l += (1 - w) * readLeft;
    r += (1 - w) * readRight;
  }
  store<f32>(out, l);
  store<f32>(out, r, 4);
}

/** Nothing plays in a group, and nothing begins while all that comes in stands still. */
function isIdle(m: P.Module, players: usize, g: u32, frame: u32): bool {
  if (!m.settled(g)) return false;
  for (let v: u32 = 0; v < 2 && (g << 1) + v < m.voiceCount; ++v) {
    const p = changetype<Player>(players + v * PLAYER_BYTES),
      lane = (<usize>v) << 3;
    const gates: u32 =
      (numberOf(m.trigger, g, frame, lane) > 0.5 ? 1 : 0) | (numberOf(m.reset, g, frame, lane) > 0.5 ? 2 : 0);
    if (p.isStarted == 0 || p.heard != starts || p.gates != gates) return false;
    if (p.isPlaying || p.hasLast || p.startLeft > 0 || p.doneLeft > 0) return false;
  }
  return true;
}

export function process(m: P.Module, frame: u32, frames: u32): void {
  const wet = scratch(WET);
  let resting = true;
  for (let g: u32 = 0, groups = m.groups; g < groups; ++g) {
    const state = m.state(g);
    if (isIdle(m, state.playersAt, g, frame)) {
      m.outOut.fill(g, frame, frames, splat(0));
      for (let v: u32 = 0; v < 2 && (g << 1) + v < m.voiceCount; ++v) {
        if (m.outHead.isWanted) tell(m.outHead, (g << 1) + v, NOWHERE);
        for (let f = frame; f < frame + frames; ++f) {
          pulse(m.outStart, (g << 1) + v, f, 0);
          pulse(m.outDone, (g << 1) + v, f, 0);
        }
      }
      continue;
    }
    resting = false;
    for (let v: u32 = 0; v < 2 && (g << 1) + v < m.voiceCount; ++v) {
      const p = changetype<Player>(state.playersAt + v * PLAYER_BYTES),
        voice = (g << 1) + v,
        lane = (<usize>v) << 3;
      for (let f: u32 = 0; f < frames; ++f) {
        const at = frame + f,
          rises = listen(m, p, g, at, lane),
          part = partAt(m, p, g, at, lane);
        if (rises) begin(p, part);
        play(m, p, part, wet + ((<usize>f) << 4) + lane);
        pulse(m.outStart, voice, at, p.startLeft);
        pulse(m.outDone, voice, at, p.doneLeft);
        p.startLeft = max(p.startLeft - 1, 0);
        p.doneLeft = max(p.doneLeft - 1, 0);
        if (running != 0 || m.sync != P.SYNC_TEMPO) if (p.isPlaying || p.hasLast) advance(p, part);
      }
      if (m.outHead.isWanted)
        tell(m.outHead, voice, p.isPlaying ? <f32>(p.place / <f64>load<u32>(m.table, 4)) : NOWHERE);
    }
    for (let f: u32 = 0; f < frames; ++f)
      m.outOut.put(g, frame + f, mul(v128.load(wet + (f << 4)), m.level.at(g, frame + f)));
  }
  if (resting) m.rest();
}
/** A trigger output of one side: its lanes are voices. */
@inline function pulse(out: Signal, voice: u32, frame: u32, left: i32): void {
  if (out.isWanted) store<f32>(out.write(voice >> 2, frame) + ((voice & 3) << 2), left > 0 ? 1 : 0);
}
