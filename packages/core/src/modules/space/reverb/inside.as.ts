// What happens inside a room: early reflections, scattering, and what comes back of the lines.
import { fourBytes, readFour } from "../../../kernels/fours.as";
import { hadamard16, transpose } from "../../../kernels/hadamard.as";
import { scratch } from "../../../kernels/scratch.as";
import { add, madd, mul, splat, sub } from "../../../kernels/simd.as";
import {
  along,
  DIRECT,
  EARLY,
  FADED,
  IN,
  LATE,
  LINES,
  OTHER,
  OWN,
  Room,
  ROUND0,
  SCATTERED,
  TAPS,
} from "./room.as";
import { lose, shelveHighs, shelveLows } from "./shelves.as";
import { Rings, Stretch, way, writeWay } from "./stretch.as";

/** Filters of a voice: five vectors for each four lines, then those of what goes in. */
const BAND_BYTES: usize = 80;
export const INPUT_FILTERS: usize = 4 * BAND_BYTES;
/** Scratch: the sixteen channels, what comes back of the lines, both sides. */
export const CHANNELS: u32 = 1,
  BACK: u32 = 2,
  SIDES: u32 = 3;

/** Taps of four chunks, from some lengths and gains on: own, then those of the other side. */
@inline function tapWhole(
  to: usize,
  own: usize,
  other: usize,
  bytes: u32,
  now: u32,
  lengths: usize,
  gains: usize,
): void {
  let a = splat(0),
    b = splat(0),
    c = splat(0),
    d = splat(0);
  for (let n: usize = 0; n < 2 * TAPS; ++n) {
    const ring = n < TAPS ? own : other,
      at = (now - load<u32>(lengths + (n << 2))) << 2,
      gain = v128.load32_splat(gains + (n << 2));
    a = madd(gain, v128.load(ring + <usize>(at & bytes)), a);
    b = madd(gain, v128.load(ring + <usize>((at + 16) & bytes)), b);
    c = madd(gain, v128.load(ring + <usize>((at + 32) & bytes)), c);
    d = madd(gain, v128.load(ring + <usize>((at + 48) & bytes)), d);
  }
  v128.store(to, a);
  v128.store(to, b, 256);
  v128.store(to, c, 512);
  v128.store(to, d, 768);
}
/** Those of one chunk. */
function tapChunk(own: usize, other: usize, mask: u32, now: u32, lengths: usize, gains: usize): v128 {
  let sum = splat(0);
  for (let n: usize = 0; n < 2 * TAPS; ++n)
    sum = madd(
      v128.load32_splat(gains + (n << 2)),
      readFour(n < TAPS ? own : other, mask, now, load<u32>(lengths + (n << 2))),
      sum,
    );
  return sum;
}

/** Early reflections of a side into a row of chunks: its own and some of the other's. */
export function early(to: usize, own: usize, other: usize, mask: u32, s: Stretch, room: Room): void {
  const lengths = room.nextLengths + (OWN << 2),
    gains = room.nextTapGains;
  if (room.isMute) {
    for (let c: u32 = 0; c < s.chunks; ++c) v128.store(to + (c << 8), splat(0));
    return;
  }
  if (s.chunks > 1) tapWhole(to, own, other, (mask << 2) | 3, s.now, lengths, gains);
  else v128.store(to, tapChunk(own, other, mask, s.now, lengths, gains));
  for (let c: u32 = 0; c < s.chunks; ++c) {
    const at = to + (c << 8),
      j = s.j + (c << 2);
    let sum = v128.load(at);
    if (s.fades) {
      const last = tapChunk(own, other, mask, s.now + (c << 2), room.lengths + (OWN << 2), room.tapGains);
      sum = madd(room.ramp(FADED, j), sub(sum, last), last);
    }
    v128.store(at, mul(room.ramp(EARLY, j), sum));
  }
}


@inline function hadamards(at: usize, s: Stretch): void {
  for (let c: u32 = 0; c < s.chunks; ++c) hadamard16(at + (c << 8));
}


@inline function signIf(turned: u32): v128 {
  return turned ? i32x4.splat(<i32>0x80000000) : i32x4.splat(0);
}

/** Scatters what stands after the predelay over the channels; something that is not 0 where anything sounds. */
export function scatter(rings: Rings, room: Room, s: Stretch): v128 {
  const channels = scratch(CHANNELS),
    afterBytes = fourBytes(rings.afterMask + 1),
    roundBytes = fourBytes(rings.roundMask + 1);
  let any = splat(0);
  for (let n: u32 = 0; n < LINES; ++n)
    way(
      channels + (n << 4),
      n & 1 ? rings.after + afterBytes : rings.after,
      rings.afterMask,
      s,
      room,
      ROUND0 + n,
      signIf(n & 2),
    );
  hadamards(channels, s);
  for (let round: u32 = 0; round < 2; ++round) {
    for (let n: u32 = 0; n < LINES; ++n) {
      const ring = rings.rounds + (round * LINES + n) * roundBytes,
        at = channels + (n << 4);
      any = v128.or(any, v128.load(at));
      if (s.chunks > 1)
        any = v128.or(any, v128.or(v128.load(at, 256), v128.or(v128.load(at, 512), v128.load(at, 768))));
      writeWay(ring, rings.roundMask, s, at);
      way(at, ring, rings.roundMask, s, room, ROUND0 + (round + 1) * LINES + n, signIf((n + round) & 2));
    }
    hadamards(channels, s);
  }
  // What is not scattered goes into the lines as it is, with signs that cancel in the sum that is heard.
  const sides = scratch(SIDES);
  way(sides + 32, rings.after, rings.afterMask, s, room, LATE, splat(0));
  way(sides + 48, rings.after + afterBytes, rings.afterMask, s, room, LATE, splat(0));
  for (let c: u32 = 0; c < s.chunks; ++c) {
    const j = s.j + (c << 2),
      open = room.ramp(IN, j),
      scattered = mul(room.ramp(SCATTERED, j), open),
      direct = mul(room.ramp(DIRECT, j), open);
    const l = mul(direct, v128.load(sides + (c << 8), 32)),
      r = mul(direct, v128.load(sides + (c << 8), 48));
    for (let n: u32 = 0; n < LINES; n += 2) {
      const at = channels + (c << 8) + (n << 4),
        sign = signIf(n & 4);
      v128.store(at, madd(scattered, v128.load(at), v128.xor(l, sign)));
      v128.store(at, madd(scattered, v128.load(at, 16), v128.xor(r, sign)), 16);
    }
  }
  return any;
}

/** What comes back of the lines: through their shelves and gains, turned, and through the matrix. */
export function comeBack(rings: Rings, room: Room, filters: usize, s: Stretch): void {
  const back = scratch(BACK),
    bytes = fourBytes(rings.lineMask + 1);
  for (let n: u32 = 0; n < LINES; ++n)
    way(back + (n << 4), rings.lines + n * bytes, rings.lineMask, s, room, n, splat(0));
  for (let b: u32 = 0; b < 4; ++b) {
    const at = back + (b << 6);
    for (let c: u32 = 0; c < s.chunks; ++c) transpose(at + (c << 8));
    const factors = room.shelves + (b << 4),
      state = filters + b * BAND_BYTES;
    if (room.hasHigh) shelveHighs(room, state, factors, at, s);
    if (room.hasLow) shelveLows(room, state + 48, factors + 128, at, s);
    lose(room.gains + (b << 4), at, s);
    for (let c: u32 = 0; c < s.chunks; ++c) transpose(at + (c << 8));
  }
  turnPairs(room, back, s);
  hadamards(back, s);
}

/** Each line with the one eight places on. */
@inline function turnPairs(room: Room, back: usize, s: Stretch): void {
  const turns = room.turns;
  for (let n: usize = 0; n < 8; ++n) {
    const c0 = v128.load32_splat(turns + (n << 2)),
      s0 = v128.load32_splat(turns + (n << 2), 32),
      cs = v128.load32_splat(turns + (n << 2), 64),
      ss = v128.load32_splat(turns + (n << 2), 96);
    for (let chunk: u32 = 0; chunk < s.chunks; ++chunk) {
      const at = back + (n << 4) + (chunk << 8),
        steps = along(s.j + (chunk << 2)),
        a = v128.load(at),
        b = v128.load(at, 128),
        cosine = madd(cs, steps, c0),
        sine = madd(ss, steps, s0);
      v128.store(at, sub(mul(cosine, a), mul(sine, b)));
      v128.store(at, add(mul(sine, a), mul(cosine, b)), 128);
    }
  }
}
