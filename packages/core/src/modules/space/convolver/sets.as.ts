// Parts of a response as spectra, worked out a little with every short block, before they are needed: what came in reaches
// a partition only after its distance. The next level's follow one another; those of the first level go beside.
import { stagesOf, transform } from "../../../kernels/fourier.as";
import {
  framesOf,
  firstTap,
  groupsOf,
  HEAD_BYTES,
  LEVELS,
  Part,
  Places,
  Response,
  rowBytes,
  SHORT_FRAMES,
  spectraAt,
  UNIT,
} from "./line.as";
import { separate } from "./spectra.as";

/** Begins a part anew: its head, the first taps, is there at once. */
export function beginPart(response: Response, part: Part, set: usize, first: u32, count: u32): void {
  memory.fill(changetype<usize>(part), 0, 32);
  part.isThere = 1;
  part.first = first;
  part.count = count;
  part.level = 1;
  skip(part);
  for (let channel: u32 = 0; channel < response.channels; ++channel)
    layTaps(response, part, channel, 0, SHORT_FRAMES, SHORT_FRAMES, set + <usize>channel * HEAD_BYTES);
}

/** Levels that have nothing to be worked out are done. */
function skip(part: Part): void {
  while (part.level < LEVELS && part.partition >= part.countOf(part.level)) {
    part.level += 1;
    part.partition = 0;
  }
}

/** Taps of a channel from `first` of the part on, `each` of them; silence behind its end and up to `room`. */
function layTaps(
  response: Response,
  part: Part,
  channel: u32,
  first: u32,
  each: u32,
  room: u32,
  to: usize,
): void {
  const count = part.count > first ? min(part.count - first, each) : 0,
    taps = response.samples + ((<usize>(channel * response.frames + part.first + first)) << 2),
    has = channel < response.channels ? (<usize>count) << 2 : 0;
  if (has) memory.copy(to, taps, has);
  memory.fill(to + has, 0, ((<usize>room) << 2) - has);
}

/** Stages of a transform of two channels of a partition, from one to before another. */
function build(
  response: Response,
  part: Part,
  set: usize,
  at: usize,
  level: u32,
  n: u32,
  pair: u32,
  from: u32,
  to: u32,
): void {
  const row = rowBytes(level),
    frames = framesOf(level),
    stages = stagesOf(level),
    channels = response.channels,
    channel = pair << 1;
  if (from == 0)
    for (let k: u32 = 0; k < 2; ++k)
      layTaps(
        response,
        part,
        channel + k,
        firstTap(level) + frames * n,
        frames,
        2 * frames,
        at + <usize>k * row,
      );
  transform(level, from, min(to, stages), at, at + row, at + 2 * row, at + 3 * row);
  if (to <= stages) return;
  const slotBytes = <usize>channels * UNIT,
    made = stages & 1 ? at + 2 * row : at,
    into = set + spectraAt(response, level) + <usize>n * slotBytes + <usize>channel * UNIT,
    second = channels - channel > 1 ? UNIT : 0;
  separate(
    made,
    made + row,
    frames,
    <f32>0.5 / <f32>frames,
    into,
    <usize>response.room(level) * slotBytes,
    second,
  );
}

/** Stages in a step, the last one being the separation: so that no step is much longer than another. */
function stagesAStep(level: u32): u32 {
  return level == 1 ? 6 : level == 2 ? 3 : 1;
}

/** Goes on with a part by what one short block has time for. */
export function buildOn(response: Response, part: Part, set: usize, places: Places): void {
  const pairs: u32 = response.channels > 2 ? 2 : 1;
  if (part.shorts < part.countOf(0)) {
    for (let pair: u32 = 0; pair < pairs; ++pair)
      build(response, part, set, shortRows, 0, part.shorts, pair, 0, stagesOf(0) + 1);
    part.shorts += 1;
  }
  if (part.level >= LEVELS) return;
  const each = stagesAStep(part.level),
    from = part.step * each;
  build(response, part, set, places.build, part.level, part.partition, part.pair, from, from + each);
  part.step += 1;
  if (part.step * each <= stagesOf(part.level)) return;
  part.step = 0;
  part.pair += 1;
  if (part.pair < pairs) return;
  part.pair = 0;
  part.partition += 1;
  skip(part);
}
const shortRows: usize = memory.data(4 * (256 + 4) * 4, 16);
