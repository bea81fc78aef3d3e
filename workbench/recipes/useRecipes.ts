/** Recipes of all productions, shared by all who show them. */
import { useCallback } from 'react'
import { useFetcher } from 'react-router'
import type { ListedRecipe, RecipeCommand } from '../../core/document/recipes'
import { useCommands, type Commands } from '../useCommands'

export function useRecipes(): { readonly recipes: readonly ListedRecipe[]; load(): void } {
  const list = useFetcher<{ readonly recipes: readonly ListedRecipe[] }>({ key: 'recipes' })
  const { load } = list
  return { recipes: list.data?.recipes ?? [], load: useCallback(() => void load('/recipes'), [load]) }
}

export const useRecipeCommand = (onDone?: () => void): Commands<RecipeCommand> =>
  useCommands<RecipeCommand>('/recipes', onDone)
