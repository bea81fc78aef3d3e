/** Pieces of drawings that several sets are painted with. */

export const svg = (width: number, height: number, body: string): string =>
  `<svg xmlns="http://www.w3.org/2000/svg" width="${width}" height="${height}" viewBox="0 0 ${width} ${height}">${body}</svg>`

export const rgb = (r: number, g: number, b: number): string =>
  `rgb(${Math.round(r)},${Math.round(g)},${Math.round(b)})`

/** A filter that lays dark, grainy unevenness over what it is put on. */
export const roughness = (
  id: string,
  frequency: number,
  octaves: number,
  seed: number,
  strength: number,
): string =>
  `<filter id="${id}" x="0" y="0" width="100%" height="100%"><feTurbulence type="fractalNoise" baseFrequency="${frequency}" numOctaves="${octaves}" seed="${seed}"/>
  <feColorMatrix values="0 0 0 0 0.1  0 0 0 0 0.07  0 0 0 0 0.06  0 0 0 ${1.6 * strength} ${-0.6 * strength}"/></filter>`
