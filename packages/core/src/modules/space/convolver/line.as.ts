// What a convolver keeps for each voice, and where: sounds that wait, spectra of what came in, two responses. Partitions
// come in levels: 128, 512, 2,048 and 8,192 taps, each with a transform of twice as many points.
import * as P from "../../../generated/convolver.as";
import { pointsOf } from "../../../kernels/fourier.as";

export const LEVELS: u32 = 4,
  SHORT_FRAMES: u32 = 128,
  LONG_FRAMES: u32 = 8192,
  HEAD_BYTES: usize = 128 * 4;
/** Bins of a spectrum that stand together, and bytes of as many in one channel: real parts, then imaginary ones. */
export const BINS: u32 = 16,
  UNIT: usize = 128;
const LINE_BYTES: usize = 128;

/** Frames of a block at a level, which are its bins as well. */
// @ts-ignore: decorator
@inline export function framesOf(level: u32): u32 {
  return 128 << (level << 1);
}
/** The tap at which a level begins: two of its blocks later, so that there is a block's time to work in. */
// @ts-ignore: decorator
@inline export function firstTap(level: u32): u32 {
  return level == 0 ? 128 : 256 << (level << 1);
}
// @ts-ignore: decorator
@inline export function groupsOf(level: u32): u32 {
  return framesOf(level) / BINS;
}
/** Rows of a transform are a vector longer, for the bin that comes round. */
// @ts-ignore: decorator
@inline export function rowBytes(level: u32): usize {
  return (<usize>(pointsOf(level) + 4)) << 2;
}

/** What the table says: channels of the response, its frames, and room for partitions of each level. */
@unmanaged
export class Response {
  channels: u32;
  frames: u32;
  /** Frames of the ring before it, a power of two. */
  ring: u32;
  /** Levels that it reaches. */
  levels: u32;
  rooms0: u32;
  rooms1: u32;
  rooms2: u32;
  rooms3: u32;


  @inline room(level: u32): u32 {
    return load<u32>(changetype<usize>(this) + 16 + ((<usize>level) << 2));
  }


  @inline get samples(): usize {
    return changetype<usize>(this) + 32;
  }
}

/** A part of the response and how much of it stands as spectra. */
@unmanaged
export class Part {
  isThere: u32;
  first: u32;
  count: u32;
  /** Partitions of the first level that are there; the one of another level that is worked on, how far, and of whom. */
  shorts: u32;
  level: u32;
  partition: u32;
  pair: u32;
  step: u32;

  /** Partitions of a level that it has. */
  @inline countOf(level: u32): u32 {
    const first = firstTap(level),
      last = min(this.count, level == LEVELS - 1 ? this.count : firstTap(level + 1));
    return last > first ? (last - first + framesOf(level) - 1) / framesOf(level) : 0;
  }
  /** Those of them that are there. */
  builtOf(level: u32): u32 {
    if (level == 0) return min(this.shorts, this.countOf(0));
    if (level > this.level) return 0;
    return level < this.level ? this.countOf(level) : this.partition;
  }
  get isBuilt(): bool {
    return this.shorts >= this.countOf(0) && this.level >= LEVELS;
  }
}


@unmanaged
export class Line {
  isAwake: u32;
  /** Frames in which nothing came in. */
  quiet: u32;
  /** Frames of the running longest block that are over. */
  slot: u32;
  /** Frames since it woke, up to two longest blocks: work on a level begins once a block of it is over. */
  age: u32;
  ringAt: u32;
  /** Which of both parts plays; whether the other one's sound is worked out too, and whether it fades in. */
  playing: u32;
  isPending: u32;
  isFading: u32;
  predelay: u32;
  predelayNext: u32;
  /** Frames of the fade between both that are left. */
  predelayFade: u32;
  /** Newest spectrum of each level. */
  newest0: u32;
  newest1: u32;
  newest2: u32;
  newest3: u32;


  @inline get address(): usize {
    return changetype<usize>(this);
  }


  @inline part(n: u32): Part {
    return changetype<Part>(this.address + 64 + <usize>n * 32);
  }


  @inline get next(): u32 {
    return this.playing ^ 1;
  }
  /** Is a part's sound worked out? */
  @inline uses(n: u32): bool {
    return n == this.playing || (this.isPending | this.isFading) != 0;
  }


  @inline newest(level: u32): u32 {
    return load<u32>(this.address + 44 + ((<usize>level) << 2));
  }
  /** The ring of a level moves on by one slot. */
  turn(level: u32, slots: u32): u32 {
    const before = this.newest(level),
      now = (before == 0 ? slots : before) - 1;
    store<u32>(this.address + 44 + ((<usize>level) << 2), now);
    return now;
  }
}

/** What a level has of its own. */
@unmanaged
export class LevelPlaces {
  /** Left and right of the block before and the running one. */
  input: usize;
  /** For both parts: left and right of the sound that is heard now. */
  out: usize;
  /** For both parts: rows of a transform, and rows to work in. */
  job: usize;
  /** Spectra of what came in. */
  spectra: usize;
}

/** Where everything of a voice is. */
@unmanaged
export class Places {
  line: usize;
  ring: usize;
  build: usize;
  sets: usize;
  setBytes: usize;
  zeroed: usize;
  zeroedEnd: usize;
  room: usize;


  @inline set(n: u32): usize {
    return this.sets + <usize>n * this.setBytes;
  }


  @inline level(n: u32): LevelPlaces {
    return changetype<LevelPlaces>(changetype<usize>(this) + 32 + ((<usize>n) << 4));
  }
}
const PLACES: usize = memory.data(96, 16);

/** Where spectra of a level begin in a set, behind the heads. */
export function spectraAt(response: Response, level: u32): usize {
  let units: u32 = 0;
  for (let n: u32 = 0; n < level; ++n) units += groupsOf(n) * response.room(n);
  return <usize>response.channels * (HEAD_BYTES + <usize>units * UNIT);
}

export function placesOf(m: P.Module, voice: u32): Places {
  const p = changetype<Places>(PLACES),
    response = changetype<Response>(m.table);
  p.line = m.aux + <usize>voice * (m.auxBytes / m.voiceCount);
  p.ring = p.line + LINE_BYTES;
  let at = p.ring + ((<usize>response.ring) << 3);
  p.zeroed = at;
  for (let n: u32 = 0; n < response.levels; ++n) {
    const places = p.level(n),
      frames = <usize>framesOf(n);
    places.input = at;
    places.out = at + frames * 16;
    at = places.out + frames * 16;
  }
  p.zeroedEnd = at;
  for (let n: u32 = 0; n < response.levels; ++n) {
    const places = p.level(n);
    places.job = at;
    places.spectra = at + 8 * rowBytes(n);
    at = places.spectra + <usize>(groupsOf(n) * response.room(n)) * 2 * UNIT;
  }
  p.build = at;
  p.sets = at + 4 * rowBytes(response.levels - 1);
  p.setBytes = spectraAt(response, response.levels);
  return p;
}
