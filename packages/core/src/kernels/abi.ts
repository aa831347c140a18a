/**
 * Byte layout shared by the host (TypeScript) and the kernels (AssemblyScript).
 * Plain numeric constants only: both compilers read this very file.
 *
 * A signal is a header plus data laid out `[group of 4 lanes][frame][4 lanes]` in 32-bit floats.
 * An instance is a header, a table of input signals, a table of output signals and its settings.
 */
export const VECTOR_BYTES = 16
export const BLOCK_FRAMES = 128
export const GROUP_BYTES = 2048
export const MAX_GROUPS = 8

export const SIGNAL_DATA = 0
/** Bytes from one group's data to the next; 0 where all groups share one vector. */
export const SIGNAL_GROUP_STRIDE = 4
/** 1 when somebody reads this output (a cable, a probe); kernels skip the others. */
export const SIGNAL_WANTED = 8
/** 1 inside feedback loops: the signal is always written frame by frame. */
export const SIGNAL_FIXED = 12
/** 1 when a cable carries this signal, 0 for set values and unconnected ports. */
export const SIGNAL_CABLED = 16
/** Eight frame strides, one a group: 16 while it moves, 0 while it is constant. */
export const SIGNAL_STRIDES = 20
/** Groups of lanes this signal has. */
export const SIGNAL_GROUPS = 52
/** Segment in which a constant of this signal last changed; a moving signal has changed always. */
export const SIGNAL_STAMP = 56
export const SIGNAL_BYTES = 64

export const INSTANCE_GROUPS = 0
export const INSTANCE_VOICES = 4
export const INSTANCE_SIDES = 8
export const INSTANCE_STATE = 12
export const INSTANCE_SEED = 16
/** Count of resets after a NaN or infinity. */
export const INSTANCE_RESETS = 20
/** Further memory: delay lines, tables, note records. */
export const INSTANCE_AUX = 24
export const INSTANCE_AUX_BYTES = 28
/** Vectors per group at the start of the state that are flushed and guarded. */
export const INSTANCE_FLUSHED = 32
/** Vectors of state per group. */
export const INSTANCE_STATE_VECTORS = 36
export const INSTANCE_OUTPUTS = 40
export const INSTANCE_OUTPUT_COUNT = 44
/** What the host worked out for this module (sequences, curves, programs): 32-bit words, shared by all groups. */
export const INSTANCE_TABLE = 48
export const INSTANCE_TABLE_WORDS = 52
/** Segment since which the module rests: nothing it reads has changed and nothing in it moves. 0: awake. */
export const INSTANCE_REST = 56
/** Inputs and parameters, from INSTANCE_PORTS on. */
export const INSTANCE_INPUT_COUNT = 60
/** Most voices of any signal that ends on the module, before they are summed for it. */
export const INSTANCE_FED_VOICES = 64
/** The signals it reads that are no set values, each once, behind its own slots: what may end its rest. */
export const INSTANCE_SOURCES = 68
export const INSTANCE_SOURCE_COUNT = 72
/** Instance of the module whose memory it looks into, 0 where there is none. */
export const INSTANCE_KEEPER = 76
export const INSTANCE_PORTS = 80

/** A value on its way: where it goes, how far that is, frames left and in all, and how fast it was when it set out. */
export const RAMP_VALUE = 0
export const RAMP_WAY = 4
export const RAMP_REMAINING = 8
export const RAMP_TOTAL = 12
export const RAMP_SPEED = 16
export const RAMP_BYTES = 20

/** The ramp of the set value stands first. */
export const PARAM_BASE = 0
export const PARAM_REMAINING = 8
export const PARAM_MODE = 20
export const PARAM_MIN = 24
export const PARAM_MAX = 28
export const PARAM_SIGNAL = 32
/** Signal of the factor 2^modulation, 0 where nobody asks for it. */
export const PARAM_FACTOR = 36
/** 1 while the record stands in the list of moving set values. */
export const PARAM_LISTED = 40
/** Frames over which a later change of the base value is spread. */
export const PARAM_SMOOTHING = 44
/** 1 while an adapter serves this parameter (it has cables). */
export const PARAM_MODULATED = 48
/** Times move in octaves of themselves plus this, in their own unit: 0 is no dead end. */
export const PARAM_LEAST = 52
export const PARAM_BYTES = 64

export const MODE_LINEAR = 0
export const MODE_OCTAVES = 1
export const MODE_TIME = 2
export const MODE_SWITCH = 3

export const ADAPTER_SIGNAL = 0
export const ADAPTER_GROUPS = 4
export const ADAPTER_VOICES = 8
export const ADAPTER_SIDES = 12
export const ADAPTER_TERM_COUNT = 16
export const ADAPTER_TERMS = 20
export const ADAPTER_PARAM = 24
/** Frames left of a cross-fade between old and new sources. */
export const ADAPTER_FADE = 28
export const ADAPTER_FACTOR_SIGNAL = 32
/** Segment since which it rests, as INSTANCE_REST. */
export const ADAPTER_REST = 36
/** Of an adapter that runs frame by frame: where it reads, how far the next frame and the next group are, where it writes. */
export const ADAPTER_FROM = 40
export const ADAPTER_STEP = 44
export const ADAPTER_STRIDE = 48
export const ADAPTER_TO = 52
export const ADAPTER_BYTES = 64

export const TERM_SOURCE = 0
export const TERM_MAPPING = 4
export const TERM_SOURCE_VOICES = 8
export const TERM_SOURCE_SIDES = 12
/** The ramp of the amount. */
export const TERM_AMOUNT = 16
export const TERM_AMOUNT_REMAINING = 24
export const TERM_ROLE = 36
/** Where a voice sum counts down the fades of stolen voices: the notes' memory, 0 where no voices are summed. */
export const TERM_STEALS = 40
/** Where a voice sum keeps the last sample of every lane. */
export const TERM_HELD = 44
export const TERM_BYTES = 48

/** Source and destination have the same lanes. */
export const MAPPING_SAME = 0
/** One voice goes to every voice (sides equal). */
export const MAPPING_COPY = 1
/** Mono voices go to both sides of stereo voices. */
export const MAPPING_WIDEN = 2
/** All voices are summed into one, mono or stereo. */
export const MAPPING_SUM = 3
/** Anything else, lane by lane: missing voices, sides folded to one. */
export const MAPPING_GENERAL = 4

export const ROLE_STEADY = 0
export const ROLE_LEAVING = 1
export const ROLE_ARRIVING = 2
/** The base value of a parameter, from a field formula. */
export const ROLE_BASE = 3

export const FADE_FRAMES = 240

export const OP_BYTES = 48
export const OP_FUNCTION = 0
export const OP_INSTANCE = 4
/** Ops in the loop's body, for OP_LOOP. */
export const OP_COUNT = 8
/** Ops (at the start of the body) that report the least delay of the loop, for OP_LOOP. */
export const OP_PROBES = 12
/** 1 for modules (not adapters) outside loops: they may rest. */
export const OP_RESTS = 8
export const OP_LOOP = 0xffff
/** In loops: what prepares a segment that runs frame by frame, what runs one frame then, and what was found fit for it. */
export const OP_READY = 16
export const OP_FRAME = 20
/** Of the nth op that has something to do in a frame: what to call, its instance, and whether by its short form. */
export const OP_NOW = 24
export const OP_NOW_INSTANCE = 28
export const OP_SHORT = 32
export const NO_FUNCTION = 0xffff
/** What is said before a segment that runs frame by frame: not fit for the short form, fit for it, nothing to do at all. */
export const UNFIT = 0
export const FIT = 1
export const DONE = 2

/** Voice records of a note source: 16 records in its further memory. */
export const VOICE_PITCH = 0
export const VOICE_VELOCITY = 4
export const VOICE_RELEASE = 8
export const VOICE_PRESSURE = 12
export const VOICE_SLIDE = 16
export const VOICE_BEND = 20
export const VOICE_SCATTER = 24
export const VOICE_GATE = 28
/** Bits: 1 drop the gate for one sample, 2 trigger, 4 glide to the new pitch, 8 jump to it. */
export const VOICE_FLAGS = 32
export const VOICE_BYTES = 48
export const VOICE_DROP = 1
export const VOICE_TRIGGER = 2
export const VOICE_GLIDE = 4
export const VOICE_JUMP = 8
/** After the 16 voice records: what belongs to the channel as a whole. */
export const CHANNEL_BEND = 768
export const CHANNEL_WHEEL = 772
export const CHANNEL_HELD = 776
export const CHANNEL_ANY = 780
/** Frames of fade left for each of 16 stolen voices. */
export const CHANNEL_STEALS = 784
export const CHANNEL_BYTES = 848
/** A stolen voice's share in a voice sum fades over this long. */
export const STEAL_SECONDS = 0.002

/** Limiters: samples on either side that levels between samples are told by, and in which the gain stands still. */
export const LOOKAHEAD_REACH = 24
export const LOOKAHEAD_HOLD = 8
/** Bytes of a gain that looks ahead: before its two rings, and for each sample of both. */
export const LOOKAHEAD_HEAD = 48
export const LOOKAHEAD_SAMPLE = 32

/** Mailbox between an outboard module and its device: which device it is (0: none yet), frames it was not called for. */
export const MAIL_HANDLE = 0
export const MAIL_SLEPT = 4
export const MAIL_NOTE_COUNT = 8
/** Values of the controls, 0…1. */
export const MAIL_VALUES = 32
export const MAIL_CONTROLS = 8
/** Frame, voice (256 added where it begins), pitch, velocity of each note in the block. */
export const MAIL_NOTES = 64
export const MAIL_NOTE_BYTES = 16
export const MOST_MAIL_NOTES = 64
/** Pitches of sixteen voices; 128 frames of both sides in, and out. */
export const MAIL_PITCHES = 1088
export const MAIL_IN = 1152
export const MAIL_OUT = 2176
export const MAIL_BYTES = 3200
