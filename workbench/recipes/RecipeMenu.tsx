/** The part of a mend's menu that keeps its settings as a recipe and gives it those of one. */
import { DropdownMenu } from 'radix-ui'
import { applyRecipe, suits, type ListedRecipe } from '../../core/document/recipes'
import type { MendRecord } from '../../core/document/mend'
import { useBenchParts } from '../BenchContext'
import { MENU, MENU_ITEM } from '../column/buttonStyles'
import { recipeWords } from './recipeWords'

interface RecipeMenuProps {
  /** The mends that a recipe is for. */
  meant(): readonly MendRecord[]
  readonly recipes: readonly ListedRecipe[]
  onKeep(): void
  onManage(): void
}

export function RecipeMenu({ meant, recipes, onKeep, onManage }: RecipeMenuProps) {
  const { store } = useBenchParts()
  return (
    <DropdownMenu.Sub>
      <DropdownMenu.SubTrigger className={`${MENU_ITEM} flex justify-between data-[state=open]:bg-lifted`}>
        Recipe <span aria-hidden>›</span>
      </DropdownMenu.SubTrigger>
      <DropdownMenu.Portal>
        <DropdownMenu.SubContent className={MENU} sideOffset={4}>
          <DropdownMenu.Item className={MENU_ITEM} onSelect={onKeep}>
            Keep its settings as a recipe…
          </DropdownMenu.Item>
          {recipes.length > 0 && <DropdownMenu.Separator className="my-1 border-t border-line" />}
          {recipes.map(({ id, recipe }) => (
            <DropdownMenu.Item
              key={id}
              className={MENU_ITEM}
              disabled={!meant().some((one) => suits(recipe, one))}
              onSelect={() => {
                const edit = applyRecipe(meant(), recipe, store.getState().frame)
                if (edit) store.getState().commit(edit)
              }}
            >
              <span className="block font-semibold">{recipe.name}</span>
              <span className="block text-xs text-soft">{recipeWords(recipe)}</span>
            </DropdownMenu.Item>
          ))}
          {recipes.length > 0 && (
            <>
              <DropdownMenu.Separator className="my-1 border-t border-line" />
              <DropdownMenu.Item className={MENU_ITEM} onSelect={onManage}>
                Rename or delete recipes…
              </DropdownMenu.Item>
            </>
          )}
        </DropdownMenu.SubContent>
      </DropdownMenu.Portal>
    </DropdownMenu.Sub>
  )
}
