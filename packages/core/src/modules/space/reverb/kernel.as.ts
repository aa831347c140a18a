// Reverb: a feedback delay network (Jot & Chaigne, "Digital delay networks for designing artificial reverberators", 1991)
// of sixteen lines and an orthogonal matrix, so that decay is what the lines' gains and shelves say, in every band. What
// goes in is scattered before by three rounds of short delays and the same matrix. Lines turn among one another in pairs,
// slowly: that moves resonances without moving a pitch. Sound runs through it sixteen frames at a time.
import { highPass } from "../../../kernels/onepole.as";
import { audible } from "../../../kernels/lanes.as";
import * as P from "../../../generated/reverb.as";
import { sampleRate, time } from "../../../kernels/time.as";
import { chunkOf, fourBytes, readBetween, readFour } from "../../../kernels/fours.as";
import { transpose } from "../../../kernels/hadamard.as";
import { scratch } from "../../../kernels/scratch.as";
import { add, clamp, madd, mixed, mul, splat, sub } from "../../../kernels/simd.as";
import { BACK, CHANNELS, comeBack, early, INPUT_FILTERS, scatter, SIDES } from "./inside.as";
import { ACROSS, FADED, LINES, Room, ROOM_BYTES, STEP, TAIL } from "./room.as";
import { settle } from "./settle.as";
import { findRings, MOST_WAYS, Rings, Stretch, writeWay } from "./stretch.as";

/** Nothing leaves this in the lines, whatever comes in. */
const MOST: f32 = 64;
/** Softer than can be heard is nothing: tails end. */
const SILENCE: f32 = 1e-8;
/** Where the table has the sizes of the rings. */
const SIZES: usize = 4 * 416;
const WET: u32 = 0,
  FILTER_BYTES: usize = 24 << 4,
  LONG: u32 = 0x40000000;
/** A change of the predelay has come by 63 % after this, and is there within a thousandth of a frame. */
const GLIDE_SECONDS: f64 = 0.05;
const THERE: f32 = 1e-3;

/** Sound of one side after the predelay, four frames of it; while it glides, frame by frame between samples. */
@inline function predelayed(ring: usize, mask: u32, now: u32, room: Room): v128 {
  if (room.predelayWay == 0) return readFour(ring, mask, now, <u32>room.predelay);
  return gliding(ring, mask, now, room);
}
function gliding(ring: usize, mask: u32, now: u32, room: Room): v128 {
  const keep = <f32>Math.exp(-1 / (GLIDE_SECONDS * <f64>sampleRate));
  let way = room.predelayWay;
  for (let f: u32 = 0; f < 4; ++f) {
    way = glided(way, keep);
    const back = max<f32>(room.predelay + way, 0),
      whole = <u32>back;
    const y =
      whole < 1
        ? nearNow(ring, mask, now + f, back)
        : readBetween(ring, mask, now + f, whole, back - <f32>whole);
    store<f32>(spare + (f << 2), y);
  }
  return v128.load(spare);
}


@inline function glided(way: f32, keep: f32): f32 {
  const next = way * keep;
  return abs(next) > THERE ? next : 0;
}
/** Between now and one frame ago: a straight line. */
@inline function nearNow(ring: usize, mask: u32, now: u32, back: f32): f32 {
  const a = load<f32>(ring + ((<usize>(now & mask)) << 2)),
    b = load<f32>(ring + ((<usize>((now - 1) & mask)) << 2));
  return a + (b - a) * back;
}
const spare: usize = memory.data(16, 16);

function glideOn(room: Room, count: u32): void {
  if (room.predelayWay == 0) return;
  const keep = <f32>Math.exp(-1 / (GLIDE_SECONDS * <f64>sampleRate));
  for (let f: u32 = 0; f < count; ++f) room.predelayWay = glided(room.predelayWay, keep);
}

/** What goes in through the low cut and the model's tone, in a row of chunks: both sides, four frames each. */
function tone(room: Room, filters: usize, rows: usize, s: Stretch): void {
  const cut = splat(room.cutTangent / (1 + room.cutTangent)),
    above = splat(room.toneTangent / (1 + room.toneTangent)),
    under = splat(room.lowToneTangent / (1 + room.lowToneTangent)),
    hasCut = room.hasCut != 0;
  for (let c: u32 = 0; c < s.chunks; ++c) {
    const at = rows + (c << 8);
    v128.store(at, splat(0), 32);
    v128.store(at, splat(0), 48);
    transpose(at);
    for (let p = at, end = at + ((<usize>s.count) << 4); p < end; p += 16) {
      let y = v128.load(p);
      if (hasCut) y = highPass(filters + 16, highPass(filters, y, cut), cut);
      const high = highPass(filters + 32, y, above),
        low = sub(y, highPass(filters + 48, y, under));
      v128.store(p, madd(splat(room.toneLow), low, madd(splat(room.toneHigh), high, y)));
    }
    transpose(at);
    v128.store(at, audible(v128.load(at), MOST, SILENCE));
    v128.store(at, audible(v128.load(at, 16), MOST, SILENCE), 16);
  }
}

/** What comes in, from frames of both sides to rows of four frames, through the predelay and the tone; its sum of bits. */
function take(rings: Rings, room: Room, filters: usize, s: Stretch, input: usize, step: usize): v128 {
  const rows = scratch(SIDES),
    beforeBytes = fourBytes(rings.beforeMask + 1),
    afterBytes = fourBytes(rings.afterMask + 1);
  let any = splat(0);
  for (let c: u32 = 0; c < s.chunks; ++c) {
    const at = rows + (c << 8);
    for (let f: u32 = 0; f < 4; ++f) {
      const x = f < s.count ? v128.load64_zero(input + ((c << 2) + f) * step) : splat(0);
      any = v128.or(any, x);
      v128.store(at + (f << 4), x);
    }
    transpose(at);
  }
  writeWay(rings.before, rings.beforeMask, s, rows);
  writeWay(rings.before + beforeBytes, rings.beforeMask, s, rows + 16);
  for (let c: u32 = 0; c < s.chunks; ++c) {
    const at = rows + (c << 8),
      now = s.now + (c << 2);
    v128.store(at, predelayed(rings.before, rings.beforeMask, now, room));
    v128.store(at, predelayed(rings.before + beforeBytes, rings.beforeMask, now, room), 16);
    glideOn(room, s.count);
  }
  tone(room, filters, rows, s);
  for (let c: u32 = 0; c < s.chunks; ++c)
    any = v128.or(any, v128.or(v128.load(rows + (c << 8)), v128.load(rows + (c << 8), 16)));
  writeWay(rings.after, rings.afterMask, s, rows);
  writeWay(rings.after + afterBytes, rings.afterMask, s, rows + 16);
  return any;
}

/** What goes into the lines, and what is heard of it with the early reflections; pairs 16 bytes apart at `wet`. */
function give(room: Room, s: Stretch, wet: usize): v128 {
  const rows = scratch(SIDES);
  let any = splat(0);
  for (let c: u32 = 0; c < s.chunks; ++c) {
    const channels = scratch(CHANNELS) + (c << 8),
      back = scratch(BACK) + (c << 8);
    let left = splat(0),
      right = splat(0);
    for (let n: u32 = 0; n < LINES; n += 2) {
      const at = channels + (n << 4),
        from = back + (n << 4),
        sign = n & 8 ? i32x4.splat(<i32>0x80000000) : i32x4.splat(0);
      const l = audible(add(v128.load(at), v128.load(from)), MOST, SILENCE),
        r = audible(add(v128.load(at, 16), v128.load(from, 16)), MOST, SILENCE);
      v128.store(at, l);
      v128.store(at, r, 16);
      any = v128.or(any, v128.or(l, r));
      left = add(left, v128.xor(l, sign));
      right = add(right, v128.xor(r, sign));
    }
    const j = s.j + (c << 2),
      tail = room.ramp(TAIL, j),
      across = room.ramp(ACROSS, j),
      at = rows + (c << 8);
    v128.store(at, madd(tail, madd(across, right, left), v128.load(at)));
    v128.store(at, madd(tail, madd(across, left, right), v128.load(at, 16)), 16);
    v128.store(at, splat(0), 32);
    v128.store(at, splat(0), 48);
    transpose(at);
    for (let f: u32 = 0; f < s.count; ++f)
      v128.store64_lane(wet + (((c << 2) + f) << 4), v128.load(at + (f << 4)), 0);
  }
  return any;
}

/** Frames of one voice. */
function run(
  rings: Rings,
  room: Room,
  filters: usize,
  s: Stretch,
  input: usize,
  step: usize,
  wet: usize,
): void {
  const afterBytes = fourBytes(rings.afterMask + 1),
    lineBytes = fourBytes(rings.lineMask + 1),
    rows = scratch(SIDES);
  let any = take(rings, room, filters + INPUT_FILTERS, s, input, step);
  any = v128.or(any, scatter(rings, room, s));
  comeBack(rings, room, filters, s);
  early(rows, rings.after, rings.after + afterBytes, rings.afterMask, s, room);
  early(rows + 16, rings.after + afterBytes, rings.after, rings.afterMask, s, room);
  any = v128.or(any, give(room, s, wet));
  for (let n: u32 = 0; n < LINES; ++n)
    writeWay(rings.lines + n * lineBytes, rings.lineMask, s, scratch(CHANNELS) + (n << 4));
  room.quiet = v128.any_true(any) ? 0 : min<u32>(room.quiet + s.chunks * s.count, LONG);
}

export function process(m: P.Module, frame: u32, frames: u32): void {
  const input = m.in,
    voiceBytes = m.auxBytes / m.voiceCount,
    wet = scratch(WET);
  let resting = true;
  for (let g: u32 = 0, groups = m.groups; g < groups; ++g) {
    const state = m.state(g),
      isSilent = input.isConstant(g) && !v128.any_true(v128.load(input.row(g, frame)));
    memory.fill(wet, 0, 2048);
    let rests = true;
    for (let v: u32 = 0; v < 2 && (g << 1) + v < m.voiceCount; ++v) {
      const room = Room.at(state.roomsAt + v * ROOM_BYTES),
        rings = findRings(m.aux + <usize>((g << 1) + v) * voiceBytes, m.table + SIZES),
        longest = max(max(rings.beforeMask, rings.afterMask), max(rings.roundMask, rings.lineMask));
      if (isSilent && room.quiet > longest) continue;
      rests = false;
      for (let f: u32 = 0; f < frames;) {
        const s = Stretch.here,
          now = time + frame + f;
        s.now = now;
        s.j = now & (STEP - 1);
        if (s.j == 0 || room.isStarted == 0) settle(m, room, MOST_WAYS, g, frame + f, v << 3);
        const whole = s.j == 0 && frames - f >= STEP;
        s.chunks = whole ? 4 : 1;
        s.count = whole ? 4 : chunkOf(now, frames - f);
        s.fades = f32x4.extract_lane(room.ramp(FADED, s.j), 0) < 1 ? 1 : 0;
        run(
          rings,
          room,
          state.filtersAt + v * FILTER_BYTES,
          s,
          input.row(g, frame + f) + (v << 3),
          input.step(g),
          wet + (f << 4) + (v << 3),
        );
        f += s.chunks * s.count;
      }
    }
    if (rests) {
      m.outOut.fill(g, frame, frames, splat(0));
      continue;
    }
    resting = false;
    for (let f: u32 = 0; f < frames; ++f) {
      const y = v128.load(wet + (f << 4)),
        other = v128.shuffle<i32>(y, y, 1, 0, 3, 2),
        width = m.width.at(g, frame + f);
      const middle = mul(splat(0.5), add(y, other)),
        side = mul(splat(0.5), sub(y, other));
      m.outOut.put(
        g,
        frame + f,
        mixed(input.at(g, frame + f), madd(width, side, middle), m.mix.at(g, frame + f)),
      );
    }
  }
  if (resting) m.rest();
}
