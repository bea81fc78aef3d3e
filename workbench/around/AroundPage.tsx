/** An all-round shot: looking around in it, and views of it to work in. */
import { useState } from 'react'
import { Link } from 'react-router'
import { toast } from 'sonner'
import type { ViewStatus } from '../../core/jobs/view'
import {
  NAMED_VIEWS,
  sizeOfView,
  straightViewSchema,
  type StraightView,
} from '../../core/sphere/straightView'
import { SMALL_BUTTON } from '../column/buttonStyles'
import { NumberField } from '../fields/NumberField'
import { SchemaForm } from '../fields/SchemaForm'
import { ProgressBar } from '../progress/ProgressBar'
import { progressOf, progressWords } from '../progress/progress'
import { TopBar, type ShotLink } from '../shell/TopBar'
import { StraightPicture } from './StraightPicture'

export interface AroundPageProps {
  readonly productionName: string
  readonly shot: ShotLink & { readonly isAllRound: boolean }
  readonly shots: readonly ShotLink[]
  readonly plate: {
    readonly width: number
    readonly height: number
    readonly firstFrame: number
    readonly lastFrame: number
  }
  readonly mayBeAllRound: boolean
  /** Its file says so. */
  readonly saysAllRound: boolean
  readonly views: readonly ViewStatus[]
}

export function AroundPage(props: AroundPageProps) {
  const { productionName, shot, shots, plate } = props
  const [view, setView] = useState<StraightView>({ headingDeg: 0, pitchDeg: 0, angleDeg: 90 })
  const [frame, setFrame] = useState(plate.firstFrame)
  return (
    <div className="flex h-screen flex-col">
      <TopBar productionName={productionName} shot={{ ...shot }} shots={shots} stage="around" frame={frame} />
      {shot.isAllRound ? (
        <main className="flex min-h-0 grow">
          <section
            aria-label="View"
            className="w-80 shrink-0 overflow-y-auto border-r border-line bg-panel p-3"
          >
            <h1 className="pb-2 font-semibold">Look around</h1>
            <div role="group" aria-label="Named views" className="flex flex-wrap gap-1 pb-2">
              {Object.entries(NAMED_VIEWS).map(([id, { title, headingDeg, pitchDeg }]) => (
                <button
                  key={id}
                  type="button"
                  className={SMALL_BUTTON}
                  aria-pressed={view.headingDeg === headingDeg && view.pitchDeg === pitchDeg}
                  onClick={() => setView({ ...view, headingDeg, pitchDeg })}
                >
                  {title}
                </button>
              ))}
            </div>
            <SchemaForm
              schema={straightViewSchema}
              values={view}
              onChange={(name, value) => setView({ ...view, [name]: value })}
              onEnd={() => undefined}
            />
            <NumberField
              title="Frame"
              unit=""
              value={frame}
              min={plate.firstFrame}
              max={plate.lastFrame}
              step={1}
              onChange={(value) => setFrame(Math.round(value))}
              onEnd={() => undefined}
            />
            <NewView {...props} view={view} />
            <Views views={props.views} onLook={setView} />
          </section>
          <div className="flex min-w-0 grow items-center justify-center bg-well">
            <StraightPicture shotId={shot.id} frame={frame} view={view} onTurn={setView} />
          </div>
        </main>
      ) : (
        <Confirm {...props} />
      )}
    </div>
  )
}

async function ask(shotId: string, order: object): Promise<boolean> {
  try {
    const response = await fetch(`/shots/${shotId}/views`, {
      method: 'POST',
      body: JSON.stringify(order),
      headers: { 'Content-Type': 'application/json' },
    })
    const answer = (await response.json()) as { readonly ok: boolean; readonly message?: string }
    if (answer.ok) return true
    toast.error(answer.message ?? 'It was refused. Nothing has changed.')
  } catch (cause) {
    toast.error(`It could not be asked for: ${(cause as Error).message} Nothing has changed.`)
  }
  return false
}

function Confirm({ shot, plate, mayBeAllRound, saysAllRound }: AroundPageProps) {
  return (
    <main className="mx-auto max-w-xl p-10">
      <h1 className="pb-2 text-xl font-bold">Is the picture of {shot.name} all-round?</h1>
      {mayBeAllRound ? (
        <>
          <p className="pb-4 text-soft">
            {saysAllRound
              ? 'Its file says that it shows all directions: 360° wide, 180° high.'
              : 'It is twice as wide as high, as pictures are that show all directions: 360° wide, 180° high.'}{' '}
            If it is one, it can be looked at straight, and mended in straight views across its seam and its
            poles.
          </p>
          <button
            type="button"
            className="rounded-sm bg-thread px-3 py-1.5 font-semibold text-well"
            onClick={() => void ask(shot.id, { intent: 'confirm', isAllRound: true })}
          >
            Yes, it is all-round
          </button>
        </>
      ) : (
        <p className="text-soft">
          An all-round picture is twice as wide as high, or its file says what it is. This one has{' '}
          {plate.width}×{plate.height} pixels and says nothing.
        </p>
      )}
    </main>
  )
}

function NewView({ shot, plate, view, views }: AroundPageProps & { readonly view: StraightView }) {
  const side = sizeOfView(view, plate)
  const [name, setName] = useState('')
  const usual = nameFor(view, views)
  return (
    <form
      className="mt-3 border-t border-line pt-3"
      onSubmit={(event) => {
        event.preventDefault()
        void ask(shot.id, { intent: 'make', name: name.trim() || usual, view })
        setName('')
      }}
    >
      <label className="flex items-center gap-2 pb-2 text-soft">
        Name
        <input
          className="min-w-0 grow rounded-sm bg-well px-1.5 py-0.5 text-ink"
          value={name}
          placeholder={usual}
          maxLength={40}
          onChange={(event) => setName(event.target.value)}
        />
      </label>
      <button type="submit" className="rounded-sm bg-thread px-3 py-1.5 font-semibold text-well">
        Make this view
      </button>
      <p className="pt-2 text-xs text-soft">
        {side}×{side} px, as dense in its middle as the picture itself. It becomes a shot to mend; what is
        mended there is put back when {shot.name} is rendered.
      </p>
    </form>
  )
}

/** What a view is called unless it is given a name: that of the named view it is, or a number. */
function nameFor({ headingDeg, pitchDeg }: StraightView, views: readonly ViewStatus[]): string {
  const named = Object.values(NAMED_VIEWS).find(
    (one) => one.headingDeg === headingDeg && one.pitchDeg === pitchDeg,
  )
  const stem = named?.title ?? 'View'
  const taken = new Set(views.map(({ name }) => name))
  if (!taken.has(stem) && named) return stem
  let number = named ? 2 : 1
  while (taken.has(`${stem} ${number}`)) number++
  return `${stem} ${number}`
}

function Views({
  views,
  onLook,
}: {
  readonly views: readonly ViewStatus[]
  onLook: (view: StraightView) => void
}) {
  if (views.length === 0)
    return (
      <p className="mt-3 border-t border-line pt-3 text-soft">
        No view has been made yet. Turn to what must go, and make one.
      </p>
    )
  return (
    <section aria-label="Views to work in" className="mt-3 border-t border-line pt-3">
      <h2 className="pb-1 font-semibold">Views</h2>
      <ul>
        {views.map((one) => (
          <li key={one.id} className="flex flex-wrap items-center gap-2 py-1" data-testid="view">
            <button
              type="button"
              className="font-semibold hover:text-thread"
              title="Look there"
              onClick={() => onLook(one.view)}
            >
              {one.name}
            </button>
            <span className="grow font-mono text-xs text-soft">
              {one.view.headingDeg}°, {one.view.pitchDeg}° · {one.view.angleDeg}°
            </span>
            <ViewState {...one} />
          </li>
        ))}
      </ul>
    </section>
  )
}

function ViewState({ state, framesDone, framesTotal, seconds, error, madeShotId, name }: ViewStatus) {
  if (state === 'failed')
    return (
      <p role="alert" className="w-full text-snag">
        {error}
      </p>
    )
  if (madeShotId)
    return (
      <Link
        to={`/shots/${madeShotId}/mend`}
        reloadDocument
        className={SMALL_BUTTON}
        aria-label={`Mend in ${name}`}
      >
        Mend
      </Link>
    )
  return (
    <div className="w-full">
      <ProgressBar share={framesTotal ? framesDone / framesTotal : null} label={`${name}: frames made`} />
      <p role="status" className="pt-1 font-mono text-xs text-soft">
        {state === 'waiting'
          ? 'waits for a worker'
          : progressWords(progressOf(framesDone, framesTotal, seconds))}
      </p>
    </div>
  )
}
