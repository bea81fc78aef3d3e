import { findFill } from '../../core/fill/registry'
import type { Recipe } from '../../core/document/recipes'

/** What a recipe does, in a line. */
export function recipeWords({ fill, finish }: Recipe): string {
  const title = findFill(fill.methodId)?.title ?? fill.methodId
  const strength = finish.strength < 1 ? ` · strength ${finish.strength}` : ''
  return `${title} · feather ${finish.featherOutPx} px${strength}`
}
