/** Canvases as large as they are shown. */
export interface Size {
  readonly width: number
  readonly height: number
}

/** Gives a canvas the pixels it is shown with. */
export const fitted = (canvas: HTMLCanvasElement, { width, height }: Size, ratio: number): void => {
  const [w, h] = [Math.max(1, Math.round(width * ratio)), Math.max(1, Math.round(height * ratio))]
  if (canvas.width !== w || canvas.height !== h) {
    canvas.width = w
    canvas.height = h
  }
  canvas.getContext('2d')!.setTransform(ratio, 0, 0, ratio, 0, 0)
}
