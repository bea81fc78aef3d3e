/** Numbers from 0 to 1, the same every time; Numerical Recipes' constants. */
export function createRandom(seed: number): () => number {
  let state = seed
  return () => {
    state = (Math.imul(state, 1664525) + 1013904223) | 0
    return (state >>> 8) / 16777216
  }
}
