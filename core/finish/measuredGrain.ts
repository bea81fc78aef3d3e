/** How grainy a picture is, as it is measured and made again. */
export interface GrainModel {
  /** Standard deviation in the raster's own scale: a row of GRAIN_BINS brightnesses, 0 to 1, for each channel. */
  readonly levels: Float32Array
  /** Deviation of the blur that makes white grain as coarse, px; 0 for white grain. */
  readonly coarsePx: number
}

export interface MeasuredGrain extends GrainModel {
  /** One level for everything: what tells which measure to trust. */
  readonly pooled: number
}
