// An instance of a module as kernels meet it. What each type has besides (its ports, settings and state by name) is a
// class generated from its description: generated/<type>.as.ts.
import {
  INSTANCE_AUX,
  INSTANCE_AUX_BYTES,
  INSTANCE_FED_VOICES,
  INSTANCE_GROUPS,
  INSTANCE_INPUT_COUNT,
  INSTANCE_KEEPER,
  INSTANCE_OUTPUTS,
  INSTANCE_OUTPUT_COUNT,
  INSTANCE_PORTS,
  INSTANCE_REST,
  INSTANCE_SEED,
  INSTANCE_SIDES,
  INSTANCE_SOURCES,
  INSTANCE_SOURCE_COUNT,
  INSTANCE_STATE,
  INSTANCE_STATE_VECTORS,
  INSTANCE_TABLE,
  INSTANCE_VOICES,
} from "./abi";
import { Signal } from "./signal.as";
import { mixBits } from "./simd.as";
import { restAllowed, segment, wokenAt } from "./time.as";

/** Bytes before a type's own fields; INSTANCE_PORTS, as the first of them shows. */
@unmanaged
class Header {
  header0: v128;
  header1: v128;
  header2: v128;
  header3: v128;
  header4: v128;
}


@unmanaged
export class Instance extends Header {

  @inline get address(): usize {
    return changetype<usize>(this);
  }


  @inline get groups(): u32 {
    return load<u32>(this.address, INSTANCE_GROUPS);
  }


  @inline get voiceCount(): u32 {
    return load<u32>(this.address, INSTANCE_VOICES);
  }
  /** Most voices of anything that ends on the module, before they are summed for it. */
  @inline get fedVoiceCount(): u32 {
    return load<u32>(this.address, INSTANCE_FED_VOICES);
  }


  @inline get sideCount(): u32 {
    return load<u32>(this.address, INSTANCE_SIDES);
  }


  @inline get seed(): u32 {
    return load<u32>(this.address, INSTANCE_SEED);
  }
  /** Further memory: delay lines, note records. */
  @inline get aux(): usize {
    return load<u32>(this.address, INSTANCE_AUX);
  }


  @inline get auxBytes(): u32 {
    return load<u32>(this.address, INSTANCE_AUX_BYTES);
  }
  /** The module whose memory it looks into; null where there is none. */
  @inline get keeper(): Instance {
    return changetype<Instance>(<usize>load<u32>(this.address, INSTANCE_KEEPER));
  }
  /** What the host worked out for this module. */
  @inline get table(): usize {
    return load<u32>(this.address, INSTANCE_TABLE);
  }
  /** State of one group. */
  @inline stateAt(group: u32): usize {
    return (
      <usize>load<u32>(this.address, INSTANCE_STATE) +
      group * (load<u32>(this.address, INSTANCE_STATE_VECTORS) << 4)
    );
  }
  /** Lanes of a group that belong to a voice: 1…4. */
  @inline usedLanes(group: u32): u32 {
    return min<u32>(4, this.voiceCount * this.sideCount - (group << 2));
  }
  /** A port by its place, for those that are counted through: `P.IN_IN1 + (n << 2)`. */
  @inline signal(port: usize): Signal {
    return changetype<Signal>(<usize>load<u32>(this.address + port));
  }


  @inline choice(setting: usize): i32 {
    return load<i32>(this.address + setting);
  }


  @inline get outputCount(): u32 {
    return load<u32>(this.address, INSTANCE_OUTPUT_COUNT);
  }


  @inline outputAt(index: u32): Signal {
    return changetype<Signal>(
      <usize>load<u32>(<usize>load<u32>(this.address, INSTANCE_OUTPUTS) + (index << 2)),
    );
  }
  /** It says that it does nothing until something it reads changes. */
  @inline rest(): void {
    store<u32>(this.address, segment, INSTANCE_REST);
  }

  /** True when every input and parameter is constant in a group. */
  settled(group: u32): bool {
    let p = this.address + INSTANCE_PORTS;
    for (const end = p + (load<u32>(this.address, INSTANCE_INPUT_COUNT) << 2); p < end; p += 4)
      if (!changetype<Signal>(<usize>load<u32>(p)).isConstant(group)) return false;
    return true;
  }

  /** Makes what was just written at `frame` the constant of every output of a group. */
  holdOutputs(group: u32, frame: u32, frames: u32): void {
    for (let o: u32 = 0, n = this.outputCount; o < n; ++o) {
      const signal = this.outputAt(o);
      if (signal.isWanted) signal.hold(group, frame, frames);
    }
  }

  /** True when it said it rests and nothing it reads has changed since. */
  isResting(): bool {
    const since = load<u32>(this.address, INSTANCE_REST);
    if (since < wokenAt || !restAllowed) return false;
    // Set values wake everything while they move; only what cables bring has to be looked at.
    let p = <usize>load<u32>(this.address, INSTANCE_SOURCES);
    for (const end = p + (load<u32>(this.address, INSTANCE_SOURCE_COUNT) << 2); p < end; p += 4)
      if (!changetype<Signal>(<usize>load<u32>(p)).isQuietSince(since)) return false;
    return true;
  }

  /** Seeds of a group's lanes: by module seed and voice, the same for both sides of a voice. */
  laneSeeds(group: u32): v128 {
    const lanes = i32x4.add(i32x4.splat(<i32>(group << 2)), i32x4(0, 1, 2, 3));
    const voices = this.sideCount == 2 ? i32x4.shr_u(lanes, 1) : lanes;
    return mixBits(
      v128.xor(
        i32x4.mul(i32x4.add(voices, i32x4.splat(1)), i32x4.splat(0x9e3779b9)),
        i32x4.splat(<i32>this.seed),
      ),
    );
  }

  /** Seeds of what draws at random: as `laneSeeds`, but both sides of a voice draw values of their own. */
  drawSeeds(group: u32): v128 {
    const seeds = this.laneSeeds(group);
    return this.sideCount == 2 ? v128.xor(seeds, i32x4(0, 0x3c6ef372, 0, 0x3c6ef372)) : seeds;
  }
}
