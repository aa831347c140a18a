// Convolver: a response in partitions of a transform (Gardner, "Efficient convolution without input-output delay", 1995):
// the first 128 taps directly, then ever longer partitions, whose work is spread over a block of their own length. Sums
// and transforms depend on nothing but the sound since it began, however it is cut into blocks.
import * as P from "../../../generated/convolver.as";
import { numberOf } from "../../../kernels/lanes.as";
import { scratch } from "../../../kernels/scratch.as";
import { Signal } from "../../../kernels/signal.as";
import { madd, mixed, splat } from "../../../kernels/simd.as";
import { sampleRate } from "../../../kernels/time.as";
import { turn, wake } from "./blocks.as";
import { framesOf, HEAD_BYTES, Line, LONG_FRAMES, Places, placesOf, Response, SHORT_FRAMES } from "./line.as";

const WET: u32 = 0,
  ROWS: u32 = 1;
const FADE_SECONDS: f32 = 0.02;
/** Nothing beyond goes into transforms, which would keep it for as long as the response is. */
const MOST: f32 = 64;
const HISTORY: usize = 256 * 4,
  SHORT_SIDE: usize = 128 * 4;

/**
 * Adds the head of the response, `taps` on, to `count` frames at `to`, for sound whose newest sample for the first of them
 * is at `at`. Every frame is the same sum in the same order, however many are worked out together.
 */
function addHead(to: usize, at: usize, taps: usize, count: u32): void {
  let f: u32 = 0;
  for (; f + 16 <= count; f += 16) {
    const x = at + ((<usize>f) << 2),
      y = to + ((<usize>f) << 2);
    let a = v128.load(y),
      b = v128.load(y, 16),
      c = v128.load(y, 32),
      d = v128.load(y, 48);
    for (let k: usize = 0; k < HEAD_BYTES; k += 4) {
      const h = v128.load32_splat(taps + k),
        p = x - k;
      a = madd(h, v128.load(p), a);
      b = madd(h, v128.load(p, 16), b);
      c = madd(h, v128.load(p, 32), c);
      d = madd(h, v128.load(p, 48), d);
    }
    v128.store(y, a);
    v128.store(y, b, 16);
    v128.store(y, c, 32);
    v128.store(y, d, 48);
  }
  for (; f < count; ++f) {
    const x = at + ((<usize>f) << 2),
      y = to + ((<usize>f) << 2);
    let sum = load<f32>(y);
    for (let k: usize = 0; k < HEAD_BYTES; k += 4) sum += load<f32>(taps + k) * load<f32>(x - k);
    store<f32>(y, sum);
  }
}

/** A side of a part over frames that do not cross a short block, into a row. */
function hearPart(
  places: Places,
  response: Response,
  slot: u32,
  count: u32,
  part: u32,
  side: u32,
  row: usize,
): void {
  const i = slot & (SHORT_FRAMES - 1),
    set = places.set(part),
    history = places.level(0).input + SHORT_SIDE + ((<usize>i) << 2);
  memory.fill(row, 0, (<usize>count) << 2);
  for (let level: u32 = 0; level < response.levels; ++level) {
    const frames = framesOf(level),
      at = places.level(level).out + ((<usize>((2 * part + side) * frames + (slot & (frames - 1)))) << 2);
    for (let f: usize = 0, end = (<usize>count) << 2; f < end; f += 4)
      store<f32>(row + f, load<f32>(row + f) + load<f32>(at + f));
  }
  if (response.channels == 4) {
    addHead(row, history, set + <usize>side * HEAD_BYTES, count);
    addHead(row, history + HISTORY, set + <usize>(2 + side) * HEAD_BYTES, count);
  } else
    addHead(
      row,
      history + <usize>side * HISTORY,
      set + <usize>(response.channels == 2 ? side : 0) * HEAD_BYTES,
      count,
    );
}

/** What comes in, later by the predelay; a change of it fades from one place of the ring to the other. */
function predelayed(line: Line, places: Places, ring: u32, side: u32): f32 {
  const at = places.ring + <usize>side * ((<usize>ring) << 2),
    y = load<f32>(at + ((<usize>((line.ringAt - line.predelay) & (ring - 1))) << 2));
  if (line.predelayFade == 0) return y;
  const next = load<f32>(at + ((<usize>((line.ringAt - line.predelayNext) & (ring - 1))) << 2)),
    w: f32 = 1 - <f32>line.predelayFade / (FADE_SECONDS * sampleRate);
  return y + w * (next - y);
}


@inline function movePredelay(line: Line, wanted: u32): void {
  if (line.predelayFade > 0) {
    line.predelayFade -= 1;
    if (line.predelayFade == 0) line.predelay = line.predelayNext;
  }
  if (line.predelayFade > 0 || wanted == line.predelay) return;
  line.predelayNext = wanted;
  line.predelayFade = <u32>(FADE_SECONDS * sampleRate);
}


@inline function predelayAt(m: P.Module, g: u32, frame: u32, lane: usize): u32 {
  return <u32>nearest(numberOf(m.predelay, g, frame, lane) * 0.001 * sampleRate);
}

/** The first frame and the frames of the part that is asked for. */
@inline function firstAt(m: P.Module, response: Response, g: u32, frame: u32, lane: usize): u32 {
  return min(<u32>(numberOf(m.from, g, frame, lane) * <f32>response.frames), response.frames);
}


@inline function countAt(m: P.Module, response: Response, g: u32, frame: u32, lane: usize): u32 {
  const count = <u32>nearest(numberOf(m.length, g, frame, lane) * <f32>response.frames);
  return min(count, response.frames - firstAt(m, response, g, frame, lane));
}

// @ts-ignore: decorator
@inline function sane(x: f32): f32 {
  return x != x ? 0 : max<f32>(min<f32>(x, MOST), -MOST);
}

/** What comes in goes to where every level waits for it. */
function takeIn(
  m: P.Module,
  line: Line,
  places: Places,
  response: Response,
  g: u32,
  frame: u32,
  count: u32,
  lane: usize,
): void {
  const ring = response.ring;
  for (let f: u32 = 0; f < count; ++f) {
    const input = m.in.row(g, frame + f) + lane,
      slot = line.slot + f;
    line.ringAt = (line.ringAt + 1) & (ring - 1);
    movePredelay(line, predelayAt(m, g, frame + f, lane));
    for (let side: u32 = 0; side < 2; ++side) {
      store<f32>(
        places.ring + ((<usize>(side * ring + line.ringAt)) << 2),
        sane(load<f32>(input + ((<usize>side) << 2))),
      );
      const x = predelayed(line, places, ring, side);
      for (let level: u32 = 0; level < response.levels; ++level) {
        const frames = framesOf(level);
        store<f32>(
          places.level(level).input + ((<usize>((2 * side + 1) * frames + (slot & (frames - 1)))) << 2),
          x,
        );
      }
    }
  }
}

/** Frames of one voice; wet sound as pairs 16 bytes apart. */
function run(
  m: P.Module,
  line: Line,
  places: Places,
  g: u32,
  frame: u32,
  frames: u32,
  lane: usize,
  wet: usize,
): void {
  const response = changetype<Response>(m.table),
    row = scratch(ROWS),
    other = scratch(ROWS + 1);
  for (let f: u32 = 0; f < frames;) {
    const slot = line.slot,
      left = SHORT_FRAMES - (slot & (SHORT_FRAMES - 1)),
      count = min(left, frames - f);
    takeIn(m, line, places, response, g, frame + f, count, lane);
    for (let side: u32 = 0; side < 2; ++side) {
      hearPart(places, response, slot, count, line.playing, side, row);
      if (line.isFading) hearPart(places, response, slot, count, line.next, side, other);
      for (let n: u32 = 0; n < count; ++n) {
        let y = load<f32>(row + (n << 2));
        if (line.isFading) y += (load<f32>(other + (n << 2)) - y) * (<f32>(slot + n) / <f32>LONG_FRAMES);
        store<f32>(wet + ((<usize>(f + n)) << 4) + ((<usize>side) << 2), y);
      }
    }
    f += count;
    line.slot += count;
    if (count < left) continue;
    line.slot -= SHORT_FRAMES;
    const last = frame + f - 1;
    turn(line, response, places, firstAt(m, response, g, last, lane), countAt(m, response, g, last, lane));
  }
}

/** Frames after which nothing of what came in is left anywhere. */
@inline function longest(response: Response): u32 {
  let frames = response.ring + LONG_FRAMES;
  for (let n: u32 = 0; n < response.levels; ++n) frames += (response.room(n) + 4) * framesOf(n);
  return frames;
}

/** Does anything come in? */
function isSilent(input: Signal, g: u32, frame: u32, frames: u32, lane: usize): bool {
  const count: u32 = input.isConstant(g) ? 1 : frames;
  for (let f: u32 = 0; f < count; ++f)
    if ((load<u64>(input.row(g, frame + f) + lane) & 0x7fffffff7fffffff) != 0) return false;
  return true;
}

/** One voice over a block; true where it is silent for good. */
function hear(m: P.Module, voice: u32, g: u32, frame: u32, frames: u32, lane: usize, wet: usize): bool {
  const response = changetype<Response>(m.table),
    places = placesOf(m, voice),
    line = changetype<Line>(places.line),
    silent = isSilent(m.in, g, frame, frames, lane);
  if (response.channels == 0 || (silent && !line.isAwake)) return silent;
  if (!line.isAwake) {
    wake(line, response, places, firstAt(m, response, g, frame, lane), countAt(m, response, g, frame, lane));
    line.predelay = predelayAt(m, g, frame, lane);
    line.predelayFade = 0;
  }
  line.quiet = silent ? line.quiet + frames : 0;
  run(m, line, places, g, frame, frames, lane, wet + lane);
  if (line.quiet > longest(response)) line.isAwake = 0;
  return false;
}

export function process(m: P.Module, frame: u32, frames: u32): void {
  const wet = scratch(WET);
  let resting = true;
  for (let g: u32 = 0, groups = m.groups; g < groups; ++g) {
    memory.fill(wet, 0, (<usize>frames) << 4);
    let rests = true;
    for (let v: u32 = 0; v < 2 && (g << 1) + v < m.voiceCount; ++v)
      rests = hear(m, (g << 1) + v, g, frame, frames, (<usize>v) << 3, wet) && rests;
    if (rests) {
      m.outOut.fill(g, frame, frames, splat(0));
      continue;
    }
    resting = false;
    for (let f: u32 = 0; f < frames; ++f)
      m.outOut.put(
        g,
        frame + f,
        mixed(m.in.at(g, frame + f), v128.load(wet + ((<usize>f) << 4)), m.mix.at(g, frame + f)),
      );
  }
  if (resting) m.rest();
}
