export * from './catalogue.ts'
export * from './describe/types.ts'
export { dataKindOf, defaultOf, kindOf, rangeOf } from './describe/kinds/index.ts'
export { followed, modulated, paramAt } from './describe/params.ts'
export {
  controlOf,
  CONTROLS as DEVICE_CONTROLS,
  deviceAt,
  freeControl,
  learned,
  ownParam,
  type Setting as DeviceSetting,
} from './modules/space/outboard/controls.ts'
export { shareAt, valueAt } from './outboard/device.ts'
export { slotsOf, isSignalParam } from './describe/slots.ts'
export { NOTE_VALUES } from './describe/helpers.ts'
export * from './units/units.ts'
export * from './describe/fields.ts'
export { movePoint, type Spot, spotOf } from './describe/drawing.ts'
export type { Point } from './describe/points.ts'
export * from './describe/reading.ts'
export * from './describe/typed.ts'
export { findParts, type Found } from './describe/search.ts'
export { COMING, type Coming } from './describe/coming.ts'
export { own } from './units/own.ts'
export { append } from './units/append.ts'
export { mib } from './units/bytes.ts'
export * from './patch/types.ts'
export * from './patch/walk.ts'
export { descriptionOf, type FaceRow, faceOf, STRUCTURE } from './patch/groups.ts'
export * from './patch/levels.ts'
export { type Heard, heardAfter, heardBefore, listeningTo } from './patch/listening.ts'
export { sourceBehind } from './patch/passed.ts'
export { isPort, movePort, renamePort } from './patch/ports.ts'
export { duplicate } from './patch/duplicate.ts'
export { endWords, labelOf, moduleLabel } from './patch/names.ts'
export { handlesOf, pictureOf, type Playing } from './patch/picture.ts'
export * from './patch/validate.ts'
export { patchIndex, type PatchIndex } from './patch/index.ts'
export { type Target, targetOf, targetValueFault, unmovable, type Way } from './patch/targets.ts'
export { effectivePatch, ownership } from './patch/macros.ts'
export { keepAsSet, leftMoved, moveTargetHere } from './patch/playing-edits.ts'
export { type Overlay } from './patch/overlay.ts'
export { Performance } from './perform/performance.ts'
export { Playback } from './perform/playback.ts'
export { type ControllerState } from './perform/controllers.ts'
export { overlayOf } from './perform/moment.ts'
export { HandMoves, type RestClock } from './perform/hand.ts'
export { Recorder, type RecordingStart, type Untimed } from './perform/recorder.ts'
export { blendLeavesOut } from './perform/recall.ts'
export { eventFault } from './perform/check.ts'
export { dataFaults, MOST_AMOUNT, numberIn, valueFault } from './patch/values.ts'
export * from './patch/document.ts'
export * from './patch/history.ts'
export * from './patch/differences.ts'
export { patchSchema } from './patch/schema.ts'
export { compile, type CompileOptions, type CompileResult, plainValue } from './compile/compile.ts'
export { compiled, type Settled, shapesOf } from './compile/compiled.ts'
export type { HeldBack, Latency } from './compile/align.ts'
export * from './compile/plan.ts'
export { Engine } from './engine/engine.ts'
export { readFacts } from './engine/facts.ts'
export { Planner, type PlannerOptions, type Step } from './engine/planner.ts'
export { Layout, type Delta, type KernelFacts } from './engine/layout.ts'
export { Runtime, type EngineEvent, type Watch } from './engine/runtime.ts'
export * from './notes/events.ts'
export * from './formats/wav.ts'
export { Archive, isArchive, pathFault } from './formats/archive.ts'
export { cutRecording, noteAtRate } from './modules/recordings.ts'
export { peaksOf } from './units/peaks.ts'
export { resample } from './units/resample.ts'
export * from './formats/scala.ts'
export { moduleLoads, type ModuleLoad } from './engine/load.ts'
export { type Finding, type Remedy } from './advice/remedy.ts'
export type { Measured, Silence } from './advice/silence.ts'
export { tuningFor } from './patch/tuning.ts'
export * from './patch/formulas.ts'
export { errorText, parseFormula, type ParsedFormula } from './formula/parse.ts'
export { CLOCKS, CONSTANTS, FUNCTIONS } from './formula/language.ts'
export { contextOf } from './compile/shapes.ts'
export {
  planRender,
  render,
  withSettings,
  type Rendered,
  type RenderOptions,
  type RenderPlan,
  type RenderReport,
  type RenderSink,
} from './render/render.ts'
export * from './layout/card.ts'
export { freePlace, isPlaced, nearestFree, type Rect, settle } from './layout/free.ts'
export { GRID, LANE, snap } from './layout/grid.ts'
export { roomFor } from './layout/room.ts'
export { type Clip, clipOf, clipText, pasteClip, readClip } from './patch/clip.ts'
export { tagWidth } from './layout/sketch.ts'
export {
  addFrame,
  addNote,
  type CanvasNote,
  carriedBy,
  type Frame,
  marksOf,
  modulesIn,
  moveMark,
  placeMarks,
  removeMark,
  sizeMark,
  writeMark,
} from './layout/marks.ts'
export {
  connectBundle,
  connectEach,
  insertInCable,
  moveCables,
  type NewEnds,
  outputLike,
  targetsNamed,
  throughPorts,
  wireNew,
} from './patch/wiring.ts'
export * from './patch/edits.ts'
export { adviseOn, type Advice } from './advice/advise.ts'
export { analyze, type SoundReport } from './analysis/analyze.ts'
