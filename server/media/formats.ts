/** What a version can be made as. Shared by form, encoder and command line. */
export const RENDER_FORMATS = {
  png: {
    title: 'PNG pictures',
    ending: 'zip',
    keepsAlpha: true,
    help: 'Numbered pictures in a zip, at the plate’s own depth. Nothing is lost.',
  },
  ffv1: {
    title: 'FFV1 in MKV',
    ending: 'mkv',
    keepsAlpha: true,
    help: 'One lossless video file, at the plate’s own depth.',
  },
  vp9: {
    title: 'VP9 in WebM',
    ending: 'webm',
    keepsAlpha: false,
    help: 'A small file for looking at. Not for further work.',
  },
} as const

export type RenderFormat = keyof typeof RENDER_FORMATS

/** Why pictures of a size cannot be written in a format; null where they can. */
export function refusalOf(format: RenderFormat, width: number, height: number): string | null {
  return format === 'ffv1' && Math.min(width, height) < 2
    ? 'FFV1 cannot hold a picture that is 1 px wide or high. Choose PNG pictures.'
    : null
}
