/** A canvas made ready to be painted at the screen's own sharpness, and its colours by role. */
export interface Painter {
  readonly context: CanvasRenderingContext2D;
  /** The value a colour's role has in the scheme that is shown: color('--rust'). */
  readonly color: (role: string) => string;
}

/** Sizes a canvas, in CSS pixels, and clears it; null without a canvas. */
export function painterOf(canvas: HTMLCanvasElement | null, width: number, height: number): Painter | null {
  const context = canvas?.getContext('2d');
  if (!canvas || !context) return null;
  const ratio = window.devicePixelRatio || 1;
  canvas.width = Math.ceil(width * ratio);
  canvas.height = Math.ceil(height * ratio);
  context.scale(ratio, ratio);
  const style = getComputedStyle(canvas);
  return { context, color: (role) => style.getPropertyValue(role) };
}
