/** Kinds of footage by the endings of their names. */
export const VIDEO_ENDINGS = ['mov', 'mp4', 'm4v', 'mkv', 'webm', 'avi', 'y4m']
export const PICTURE_ENDINGS = ['png', 'jpg', 'jpeg', 'tif', 'tiff', 'webp', 'dpx']

export const endingOf = (name: string): string => (/\.([^.]+)$/.exec(name)?.[1] ?? '').toLowerCase()

export const isVideo = (name: string): boolean => VIDEO_ENDINGS.includes(endingOf(name))
