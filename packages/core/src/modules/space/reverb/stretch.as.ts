// The rings of a room, and stretches of frames that run through them at once.
import { fourBytes, readFour, writeFour } from "../../../kernels/fours.as";
import { madd, sub } from "../../../kernels/simd.as";
import { FADED, LINES, Room } from "./room.as";

/** Samples each ring keeps free behind its longest way. */
const FREE: u32 = 12;

/** Rings of a voice: where they begin and their masks. */
@unmanaged
export class Rings {
  before: usize;
  after: usize;
  rounds: usize;
  lines: usize;
  beforeMask: u32;
  afterMask: u32;
  roundMask: u32;
  lineMask: u32;
}
const RINGS: usize = memory.data(64, 16);
/** Longest ways in frames: before, after, rounds, lines. */
export const MOST_WAYS: usize = memory.data(16, 16);

/** The rings of a voice in its memory; `sizes`: samples of each kind, as the description worked them out. */
export function findRings(aux: usize, sizes: usize): Rings {
  const rings = changetype<Rings>(RINGS);
  const before = <u32>load<f32>(sizes),
    after = <u32>load<f32>(sizes, 4),
    round = <u32>load<f32>(sizes, 8),
    line = <u32>load<f32>(sizes, 12);
  rings.before = aux;
  rings.after = aux + 2 * fourBytes(before);
  rings.rounds = rings.after + 2 * fourBytes(after);
  rings.lines = rings.rounds + 2 * LINES * fourBytes(round);
  rings.beforeMask = before - 1;
  rings.afterMask = after - 1;
  rings.roundMask = round - 1;
  rings.lineMask = line - 1;
  store<u32>(MOST_WAYS, before - FREE);
  store<u32>(MOST_WAYS, after - FREE, 4);
  store<u32>(MOST_WAYS, round - FREE, 8);
  store<u32>(MOST_WAYS, line - FREE, 12);
  return rings;
}

/** A stretch of frames that a room runs at once: one chunk of up to four frames, or four whole ones. */
@unmanaged
export class Stretch {
  now: u32;
  /** First frame, counted from the last settling. */
  j: u32;
  chunks: u32;
  /** Frames of the only chunk; 4 where there are four. */
  count: u32;
  /** Lengths change: both are read. */
  fades: u32;


  @inline static get here(): Stretch {
    return changetype<Stretch>(STRETCH);
  }
}
const STRETCH: usize = memory.data(32, 16);

/** Reads a way into a row of chunks 256 bytes apart; where `sign` is the sign bit, turned over. */
@inline function readWay(to: usize, ring: usize, mask: u32, s: Stretch, back: u32, sign: v128): void {
  const bytes = (mask << 2) | 3,
    at = (s.now - back) << 2;
  v128.store(to, v128.xor(v128.load(ring + <usize>(at & bytes)), sign));
  if (s.chunks == 1) return;
  v128.store(to, v128.xor(v128.load(ring + <usize>((at + 16) & bytes)), sign), 256);
  v128.store(to, v128.xor(v128.load(ring + <usize>((at + 32) & bytes)), sign), 512);
  v128.store(to, v128.xor(v128.load(ring + <usize>((at + 48) & bytes)), sign), 768);
}
/** What was read by the lengths before, on its way to what is read by the new ones. */
function fadeWay(to: usize, ring: usize, mask: u32, s: Stretch, room: Room, n: u32, sign: v128): void {
  for (let c: u32 = 0; c < s.chunks; ++c) {
    const last = v128.xor(readFour(ring, mask, s.now + (c << 2), room.length(n)), sign),
      next = v128.load(to + (c << 8));
    v128.store(to + (c << 8), madd(room.ramp(FADED, s.j + (c << 2)), sub(next, last), last));
  }
}


@inline export function way(
  to: usize,
  ring: usize,
  mask: u32,
  s: Stretch,
  room: Room,
  n: u32,
  sign: v128,
): void {
  readWay(to, ring, mask, s, room.nextLength(n), sign);
  if (s.fades) fadeWay(to, ring, mask, s, room, n, sign);
}

/** Writes a row of chunks 256 bytes apart into a ring. */
@inline export function writeWay(ring: usize, mask: u32, s: Stretch, from: usize): void {
  const x = v128.load(from);
  if (s.chunks == 1) {
    writeFour(ring, mask, s.now, s.count, x);
    return;
  }
  const at = s.now & mask,
    p = ring + ((<usize>at) << 2);
  v128.store(p, x);
  v128.store(p, v128.load(from, 256), 16);
  v128.store(p, v128.load(from, 512), 32);
  v128.store(p, v128.load(from, 768), 48);
  if (at == 0) v128.store(ring + ((<usize>(mask + 1)) << 2), x);
}
