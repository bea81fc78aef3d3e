/** Where the picture lies on the screen: a scale and an offset, nothing else. */

/** `xScreen = x * scale + left`, likewise y; screen px are CSS px inside the picture panel. */
export interface View {
  readonly scale: number
  readonly left: number
  readonly top: number
  /** Fitted, and kept so when the panel changes, until somebody zooms or moves it. */
  readonly isFit?: boolean
}

export interface PanelSize {
  readonly width: number
  readonly height: number
}

export const SCALE = { min: 0.05, max: 32 } as const // 3200 %
export const PIXEL_GRID_FROM = 8

/** Px of the screen below which a hand has slipped, as it does in a double click, and nothing was dragged. */
export const SLIP_PX = 4

const MARGIN_PX = 12

/** The whole picture, centred, never enlarged beyond its own pixels. @param halves  How many of it are shown side by side. */
export function fitView(picture: PanelSize, panel: PanelSize, halves: 1 | 2 = 1): View {
  const scale = Math.min(
    (panel.width / halves - 2 * MARGIN_PX) / picture.width,
    (panel.height - 2 * MARGIN_PX) / picture.height,
    1,
  )
  return { ...centredView(picture, panel, Math.max(scale, SCALE.min)), isFit: true }
}

export function centredView(picture: PanelSize, panel: PanelSize, scale: number): View {
  return {
    scale,
    left: Math.round((panel.width - picture.width * scale) / 2),
    top: Math.round((panel.height - picture.height * scale) / 2),
  }
}

/** Zooms so that what lies under the pointer stays there. */
export function zoomAbout(view: View, scale: number, xScreen: number, yScreen: number): View {
  const next = Math.min(Math.max(scale, SCALE.min), SCALE.max)
  const ratio = next / view.scale
  // Whole offsets keep picture pixels on screen pixels at whole scales.
  return {
    scale: next,
    left: Math.round(xScreen - (xScreen - view.left) * ratio),
    top: Math.round(yScreen - (yScreen - view.top) * ratio),
  }
}

/** Px of the screen by which the picture lies further right, where two halves are shown. @param x  Of the panel. */
export const besidePx = (panelWidth: number, x: number): number =>
  Math.round((x < panelWidth / 2 ? -1 : 1) * (panelWidth / 4))

export const panBy = (view: View, dxScreen: number, dyScreen: number): View => ({
  scale: view.scale,
  left: view.left + dxScreen,
  top: view.top + dyScreen,
})

export const toPicture = ({ scale, left, top }: View, xScreen: number, yScreen: number) => ({
  x: (xScreen - left) / scale,
  y: (yScreen - top) / scale,
})
export const toScreen = ({ scale, left, top }: View, x: number, y: number) => ({
  xScreen: x * scale + left,
  yScreen: y * scale + top,
})

/** Fixed zooms of the keys + and −. */
const STEPS = [0.05, 0.1, 0.25, 0.5, 0.75, 1, 1.5, 2, 3, 4, 6, 8, 12, 16, 24, 32] as const

export const nextScaleUp = (scale: number): number => STEPS.find((step) => step > scale * 1.001) ?? SCALE.max
export const nextScaleDown = (scale: number): number =>
  [...STEPS].reverse().find((step) => step < scale * 0.999) ?? SCALE.min

/** How near the panel's edge a place may lie and still count as in sight, as a share of the panel. */
const EDGE_SHARE = 0.1

/** The same view where it shows the place well; else one with the place in the middle. @param scale  The least enlargement. */
export function viewShowing(view: View, panel: PanelSize, x: number, y: number, scale = 0): View {
  const { xScreen, yScreen } = toScreen(view, x, y)
  const isIn = (at: number, size: number) => at > EDGE_SHARE * size && at < (1 - EDGE_SHARE) * size
  if (view.scale >= scale && isIn(xScreen, panel.width) && isIn(yScreen, panel.height)) return view
  const next = Math.max(view.scale, scale)
  return {
    scale: next,
    left: Math.round(panel.width / 2 - x * next),
    top: Math.round(panel.height / 2 - y * next),
  }
}
