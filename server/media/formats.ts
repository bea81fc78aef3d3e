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
