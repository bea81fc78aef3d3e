import { useState } from 'react'
import { BESIDE_TITLES, BIN_DAYS } from '../../core/jobs/houseOrders'
import { serverContext } from '../../server/context.server'
import { listBeside } from '../../server/house/beside.server'
import { diskUse } from '../../server/house/disk.server'
import { listBin, listHouse } from '../../server/house/house.server'
import { FIELD, MAIN_BUTTON, Modal } from '../../workbench/shell/Modal'
import { sizeWords } from '../../workbench/progress/progress'
import { SMALL_BUTTON } from '../../workbench/column/buttonStyles'
import { TopBar } from '../../workbench/shell/TopBar'
import { fieldOf, useHouse } from '../useHouse'
import { useNews } from '../useNews'
import type { Route } from './+types/productions'

export const meta: Route.MetaFunction = () => [{ title: 'Productions · Fillagrant' }]

export async function loader() {
  const context = serverContext()
  const [productions, bin, disk, beside] = await Promise.all([
    listHouse(context),
    listBin(context),
    diskUse(context),
    listBeside(context),
  ])
  return { productions, bin, disk, beside }
}

type Named = { readonly id: string; readonly name: string }

export default function Productions({ loaderData }: Route.ComponentProps) {
  const { productions, bin, disk, beside } = loaderData
  const [renamed, setRenamed] = useState<Named | null>(null)
  const [isEmptying, setEmptying] = useState(false)
  const house = useHouse()
  useNews('shot', 'version')
  const isBinEmpty = bin.shots.length + bin.productions.length + beside.inBin.length === 0
  return (
    <div className="flex min-h-screen flex-col">
      <TopBar productionName="All productions" shots={[]} stage="shots" />
      <main className="mx-auto grid w-full max-w-6xl grow grid-cols-[1fr_340px] gap-10 p-6">
        <section aria-label="Productions">
          <h1 className="text-xl font-bold">Productions</h1>
          <table className="mt-4 w-full text-left">
            <thead className="text-soft">
              <tr>
                <th className="py-1 font-normal">Name</th>
                <th className="font-normal">Shots</th>
                <th className="font-normal">On disk</th>
                <th />
              </tr>
            </thead>
            <tbody>
              {productions.map((one) => (
                <tr key={one.id} className="border-t border-line" data-testid="production">
                  <td className={`py-2 font-semibold ${one.archivedAt ? 'text-soft' : ''}`}>
                    {one.name}
                    {one.archivedAt && <span className="ml-2 font-normal">archived</span>}
                  </td>
                  <td className="font-mono">{one.shots}</td>
                  <td className="font-mono">{sizeWords(disk.productions[one.id] ?? 0)}</td>
                  <td className="flex justify-end gap-2 py-1.5">
                    <button type="button" className={SMALL_BUTTON} onClick={() => setRenamed(one)}>
                      Rename…
                    </button>
                    <button
                      type="button"
                      className={SMALL_BUTTON}
                      onClick={() => void house({ intent: 'archive-production', productionId: one.id, isArchived: one.archivedAt === null })} // prettier-ignore
                    >
                      {one.archivedAt ? 'Bring back' : 'Archive'}
                    </button>
                    <BinButton
                      onPress={() => void house({ intent: 'delete-production', productionId: one.id }, { intent: 'put-back-production', productionId: one.id })} // prettier-ignore
                    />
                  </td>
                </tr>
              ))}
            </tbody>
          </table>
          <form
            className="mt-6 flex gap-3"
            onSubmit={(event) => {
              event.preventDefault()
              const form = event.currentTarget
              void house({ intent: 'make-production', name: fieldOf(form, 'name') }).then((done) => done && form.reset()) // prettier-ignore
            }}
          >
            <input
              name="name"
              required
              maxLength={80}
              aria-label="Name of a new production"
              placeholder="New production"
              className="w-64 rounded-sm bg-well px-2 py-1.5"
            />
            <button type="submit" className={SMALL_BUTTON}>
              Make
            </button>
          </form>
          <h2 className="mt-8 font-semibold">On disk</h2>
          <dl className="mt-2 grid max-w-sm grid-cols-[1fr_auto] gap-y-1" data-testid="disk-use">
            {disk.parts.map(({ title, bytes }) => (
              <div key={title} className="contents">
                <dt className="text-soft">{title}</dt>
                <dd className="text-right font-mono">{sizeWords(bytes)}</dd>
              </div>
            ))}
          </dl>
          <p className={`mt-2 ${disk.isNearlyFull ? 'text-caution' : 'text-soft'}`}>{disk.words}</p>
          <BesideList items={beside.kept} house={house} />
        </section>
        <section aria-label="Bin">
          <h2 className="text-xl font-bold">Bin</h2>
          <p className="mt-1 text-soft">
            {isBinEmpty
              ? `Empty. What is put in here can be put back for ${BIN_DAYS} days.`
              : `Each stays for ${BIN_DAYS} days.`}
          </p>
          <ul className="mt-3">
            {bin.productions.map((one) => (
              <BinRow
                key={one.id}
                name={`${one.name}, all of it`}
                deletedAt={one.deletedAt}
                onPutBack={() => void house({ intent: 'put-back-production', productionId: one.id })}
              />
            ))}
            {bin.shots.map((one) => (
              <BinRow
                key={one.id}
                name={one.name}
                deletedAt={one.deletedAt}
                onPutBack={() => void house({ intent: 'put-back-shots', shotIds: [one.id] })}
              />
            ))}
            {beside.inBin.map(({ kind, id, at }) => (
              <BinRow
                key={id}
                name={BESIDE_TITLES[kind]}
                deletedAt={at}
                onPutBack={() => void house({ intent: 'put-back-beside', kind, id })}
              />
            ))}
          </ul>
          {!isBinEmpty && (
            <button type="button" className={`mt-4 ${SMALL_BUTTON}`} onClick={() => setEmptying(true)}>
              Empty the bin…
            </button>
          )}
        </section>
      </main>
      <Modal
        title={`Rename ${renamed?.name ?? ''}`}
        isOpen={renamed !== null}
        onClose={() => setRenamed(null)}
      >
        <form
          className="flex flex-col gap-3"
          onSubmit={(event) => {
            event.preventDefault()
            const name = fieldOf(event.currentTarget, 'name')
            void house({ intent: 'rename-production', productionId: renamed!.id, name }).then((done) => done && setRenamed(null)) // prettier-ignore
          }}
        >
          <label>
            Name
            <input name="name" required maxLength={80} defaultValue={renamed?.name} className={FIELD} />
          </label>
          <button type="submit" className={`self-end ${MAIN_BUTTON}`}>
            Rename
          </button>
        </form>
      </Modal>
      <Modal title="Empty the bin" isOpen={isEmptying} onClose={() => setEmptying(false)}>
        <p>
          What is in the bin is deleted for good: frames, mends, history, versions, pictures. Nothing brings
          it back but a backup.
        </p>
        <p className="flex justify-end gap-2">
          <button type="button" className={SMALL_BUTTON} onClick={() => setEmptying(false)}>
            Keep it
          </button>
          <button
            type="button"
            className="rounded-sm bg-snag px-3 py-1.5 font-semibold text-well"
            onClick={() => void house({ intent: 'empty-bin' }).then(() => setEmptying(false))}
          >
            Delete for good
          </button>
        </p>
      </Modal>
    </div>
  )
}

/** Stills, mattes and marks: what each takes, and which shots use it. */
function BesideList({
  items,
  house,
}: {
  items: Route.ComponentProps['loaderData']['beside']['kept']
  house: ReturnType<typeof useHouse>
}) {
  if (items.length === 0) return null
  return (
    <>
      <h2 className="mt-8 font-semibold">Beside the footage</h2>
      <table className="mt-2 w-full text-left">
        <thead className="text-soft">
          <tr>
            <th className="py-1 font-normal">What</th>
            <th className="font-normal">Brought in</th>
            <th className="font-normal">On disk</th>
            <th className="font-normal">Used by</th>
            <th />
          </tr>
        </thead>
        <tbody>
          {items.map(({ kind, id, at, bytes, usedBy }) => (
            <tr key={id} className="border-t border-line" data-testid="beside">
              <td className="py-2">{BESIDE_TITLES[kind]}</td>
              <td className="font-mono">{at.toISOString().slice(0, 10)}</td>
              <td className="font-mono">{sizeWords(bytes)}</td>
              <td className="max-w-64 truncate">
                {usedBy.length > 0 ? usedBy.join(', ') : <span className="text-soft">nothing now</span>}
              </td>
              <td className="text-right">
                <BinButton
                  isDisabled={usedBy.length > 0}
                  help={usedBy.length > 0 ? 'Take it out there first.' : 'Undo of a mend that had it shows nothing there until it is put back.'} // prettier-ignore
                  onPress={() => void house({ intent: 'delete-beside', kind, id }, { intent: 'put-back-beside', kind, id })} // prettier-ignore
                />
              </td>
            </tr>
          ))}
        </tbody>
      </table>
    </>
  )
}

function BinButton({
  onPress,
  help,
  isDisabled,
}: {
  onPress: () => void
  help?: string
  isDisabled?: boolean
}) {
  return (
    <button type="button" className={SMALL_BUTTON} title={help} disabled={isDisabled} onClick={onPress}>
      Put in the bin
    </button>
  )
}

function BinRow({
  name,
  deletedAt,
  onPutBack,
}: {
  name: string
  deletedAt: Date | null
  onPutBack: () => void
}) {
  return (
    <li className="flex items-center gap-2 border-t border-line py-1.5" data-testid="in-bin">
      <span className="grow truncate font-mono font-bold">{name}</span>
      <span className="text-soft">{deletedAt?.toISOString().slice(0, 10)}</span>
      <button type="button" className={SMALL_BUTTON} onClick={onPutBack}>
        Put back
      </button>
    </li>
  )
}
