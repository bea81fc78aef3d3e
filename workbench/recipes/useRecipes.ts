/** Recipes of all productions, shared by all who show them. */
import { useCallback } from 'react'
import { useFetcher } from 'react-router'
import type { ListedRecipe, RecipeOrder } from '../../core/mend/recipes'
import { useOrders, type Orders } from '../useOrders'

export function useRecipes(): { readonly recipes: readonly ListedRecipe[]; load(): void } {
  const list = useFetcher<{ readonly recipes: readonly ListedRecipe[] }>({ key: 'recipes' })
  const { load } = list
  return { recipes: list.data?.recipes ?? [], load: useCallback(() => void load('/recipes'), [load]) }
}

export const useRecipeOrder = (onDone?: () => void): Orders<RecipeOrder> =>
  useOrders<RecipeOrder>('/recipes', onDone)
