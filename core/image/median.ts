/** The middle one of the values, of two the greater; NaN of none. */
export const medianOf = (values: readonly number[]): number => Float64Array.from(values).sort()[values.length >> 1] ?? NaN
