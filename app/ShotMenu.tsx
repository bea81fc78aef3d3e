/** What can be done with a shot as a whole: named anew, moved to another production, put into the bin. */
import { useState } from 'react'
import { DropdownMenu } from 'radix-ui'
import { EllipsisVertical } from 'lucide-react'
import { MENU, MENU_ITEM } from '../workbench/column/buttonStyles'
import { FIELD, MAIN_BUTTON, Modal } from '../workbench/shell/Modal'
import { fieldOf, useHouse } from './useHouse'

interface ShotMenuProps {
  readonly shot: {
    readonly id: string
    readonly name: string
    readonly title: string
    readonly productionId: string
  }
  /** Where it can be moved to. */
  readonly productions: readonly { readonly id: string; readonly name: string }[]
}

export function ShotMenu({ shot, productions }: ShotMenuProps) {
  const [isNaming, setNaming] = useState(false)
  const house = useHouse()
  const shotIds = [shot.id]
  const others = productions.filter(({ id }) => id !== shot.productionId)
  return (
    <>
      <DropdownMenu.Root>
        <DropdownMenu.Trigger
          className="absolute top-1.5 right-1.5 rounded-sm bg-panel/80 p-1 text-soft hover:text-ink"
          aria-label={`More of ${shot.name}`}
        >
          <EllipsisVertical aria-hidden className="size-4" />
        </DropdownMenu.Trigger>
        <DropdownMenu.Portal>
          <DropdownMenu.Content align="end" className={MENU}>
            <DropdownMenu.Item className={MENU_ITEM} onSelect={() => setNaming(true)}>
              Rename…
            </DropdownMenu.Item>
            {others.length > 0 && (
              <DropdownMenu.Sub>
                <DropdownMenu.SubTrigger className={MENU_ITEM}>Move to</DropdownMenu.SubTrigger>
                <DropdownMenu.Portal>
                  <DropdownMenu.SubContent className={MENU}>
                    {others.map(({ id, name }) => (
                      <DropdownMenu.Item
                        key={id}
                        className={MENU_ITEM}
                        onSelect={() => void house({ intent: 'move-shots', shotIds, productionId: id }, { intent: 'move-shots', shotIds, productionId: shot.productionId })} // prettier-ignore
                      >
                        {name}
                      </DropdownMenu.Item>
                    ))}
                  </DropdownMenu.SubContent>
                </DropdownMenu.Portal>
              </DropdownMenu.Sub>
            )}
            <DropdownMenu.Item
              className={MENU_ITEM}
              onSelect={() =>
                void house({ intent: 'delete-shots', shotIds }, { intent: 'put-back-shots', shotIds })
              }
            >
              Put in the bin
            </DropdownMenu.Item>
          </DropdownMenu.Content>
        </DropdownMenu.Portal>
      </DropdownMenu.Root>
      <Modal title={`Rename ${shot.name}`} isOpen={isNaming} onClose={() => setNaming(false)}>
        <form
          className="flex flex-col gap-3"
          onSubmit={(event) => {
            event.preventDefault()
            const form = event.currentTarget
            void house({ intent: 'rename-shot', shotId: shot.id, name: fieldOf(form, 'name'), title: fieldOf(form, 'title') }).then((done) => done && setNaming(false)) // prettier-ignore
          }}
        >
          <label>
            Name
            <input name="name" required maxLength={80} defaultValue={shot.name} className={FIELD} />
          </label>
          <label>
            Title
            <input name="title" maxLength={200} defaultValue={shot.title} className={FIELD} />
          </label>
          <p className="text-soft">Its address stays the same.</p>
          <button type="submit" className={`self-end ${MAIN_BUTTON}`}>
            Rename
          </button>
        </form>
      </Modal>
    </>
  )
}
