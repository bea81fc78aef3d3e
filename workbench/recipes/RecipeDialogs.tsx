/** Keeping a recipe under a name, and the list of all of them. */
import { Dialog } from 'radix-ui'
import { Trash2 } from 'lucide-react'
import { useState } from 'react'
import { recipeOf, type ListedRecipe } from '../../core/document/recipes'
import type { MendRecord } from '../../core/document/mend'
import { useBenchParts } from '../BenchContext'
import { SMALL_BUTTON } from '../column/buttonStyles'
import { FIELD, MAIN_BUTTON } from '../shell/Modal'
import { recipeWords } from './recipeWords'
import { useRecipeCommand } from './useRecipes'

export function KeepRecipe({
  mend,
  recipes,
  onDone,
}: {
  mend: MendRecord
  recipes: readonly ListedRecipe[]
  onDone: () => void
}) {
  const { shotId } = useBenchParts()
  const [name, setName] = useState(mend.name)
  const { send, isBusy } = useRecipeCommand(onDone)
  const recipe = recipeOf(mend, name.trim())
  const isKnown = recipes.some((one) => one.recipe.name === name.trim())
  return (
    <form
      className="flex flex-col gap-3"
      onSubmit={(event) => {
        event.preventDefault()
        if (name.trim() !== '') send({ intent: 'keep', shotId, recipe })
      }}
    >
      <label className="flex flex-col gap-1 text-soft">
        Name
        <input
          className={FIELD}
          value={name}
          maxLength={80}
          autoComplete="off"
          autoFocus
          onChange={(event) => setName(event.target.value)}
        />
      </label>
      <p className="text-soft">
        {recipeWords(recipe)}. Fill, finish and ramps; not where or when.
        {isKnown && <span className="text-caution"> The recipe of this name is replaced.</span>}
      </p>
      <div className="flex gap-2">
        <button type="submit" className={MAIN_BUTTON} disabled={name.trim() === '' || isBusy}>
          Keep
        </button>
        <Dialog.Close className={SMALL_BUTTON}>Cancel</Dialog.Close>
      </div>
    </form>
  )
}

export function ManageRecipes({ recipes }: { recipes: readonly ListedRecipe[] }) {
  const { send } = useRecipeCommand()
  if (recipes.length === 0)
    return <p className="text-soft">There is none. Keep a mend’s settings as one from its menu.</p>
  return (
    <ul>
      {recipes.map(({ id, recipe }) => (
        <li key={id} className="flex items-center gap-2 border-b border-line py-1.5">
          <input
            key={recipe.name}
            aria-label={`Name of ${recipe.name}`}
            className={FIELD}
            defaultValue={recipe.name}
            maxLength={80}
            onBlur={(event) => {
              const name = event.target.value.trim()
              if (name !== '' && name !== recipe.name) send({ intent: 'rename', id, name })
              else event.target.value = recipe.name
            }}
            onKeyDown={(event) => event.key === 'Enter' && event.currentTarget.blur()}
          />
          <span className="w-40 shrink-0 text-xs text-soft">{recipeWords(recipe)}</span>
          <button
            type="button"
            aria-label={`Delete ${recipe.name}`}
            className="p-0.5 text-soft hover:text-ink"
            onClick={() => send({ intent: 'remove', id })}
          >
            <Trash2 aria-hidden className="size-3.5" />
          </button>
        </li>
      ))}
    </ul>
  )
}
