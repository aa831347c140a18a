/** The browser's audio: one context, one worklet, one connection to its destination. */
import { Layout, readFacts } from '@ypsilon/core'
import { type Port, WorkletLine } from './line.ts'
import type { FromWorklet } from './messages.ts'

export interface Opened {
  readonly context: AudioContext
  readonly node: AudioWorkletNode
  readonly line: WorkletLine
  readonly layout: Layout
}

/** Opens context and worklet; rejects with what went wrong. */
export const openSound = async (
  context: AudioContext,
  kernels: ArrayBuffer,
  workletUrl: string,
  receive: (message: FromWorklet) => void,
): Promise<Opened> => {
  await context.audioWorklet.addModule(workletUrl)
  const layout = new Layout(readFacts(await WebAssembly.compile(kernels)), context.sampleRate)
  const node = new AudioWorkletNode(context, 'ypsilon', {
    numberOfInputs: 1,
    numberOfOutputs: 1,
    outputChannelCount: [2],
    processorOptions: { kernels: kernels.slice(0) },
  })
  const line = new WorkletLine(node.port as Port, receive)
  node.connect(context.destination)
  return { context, node, line, layout }
}

/** Asks for the audio input; rejects with a sentence when it is refused. */
export const openMicrophone = async ({ context, node }: Opened): Promise<MediaStreamAudioSourceNode> => {
  let stream: MediaStream
  try {
    stream = await navigator.mediaDevices.getUserMedia({
      audio: { echoCancellation: false, noiseSuppression: false, autoGainControl: false },
    })
  } catch {
    throw new Error(
      'The browser did not allow the audio input. Allow the microphone for this page and try again.',
    )
  }
  const microphone = context.createMediaStreamSource(stream)
  microphone.connect(node)
  return microphone
}
