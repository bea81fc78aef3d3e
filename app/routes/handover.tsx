import { Form, Link, useNavigation, useSearchParams } from 'react-router'
import { useState } from 'react'
import { Download, Trash2 } from 'lucide-react'
import { z } from 'zod'
import { serverContext } from '../../server/context.server'
import { REVIEW_STATES } from '../../core/proof/review'
import { RENDER_FORMATS } from '../../server/media/formats'
import { findShot, listShots } from '../../server/shots.server'
import { reviewsOf } from '../../server/notes.server'
import { readConfig } from '../../server/config.server'
import { roomWarning } from '../../server/room.server'
import { loadScene } from '../../server/scenes.server'
import {
  awaitsScene,
  cancelVersion,
  listVersions,
  makeVersion,
  versionRequestSchema,
} from '../../server/versions.server'
import { TopBar } from '../../workbench/shell/TopBar'
import { ProgressBar } from '../../workbench/progress/ProgressBar'
import { versionTitle } from '../../core/versionTitle'
import { progressOf, progressWords, sizeWords } from '../../workbench/progress/progress'
import { frameInAddress } from '../frameInAddress'
import { Modal } from '../../workbench/shell/Modal'
import { RoomNotice } from '../RoomNotice'
import { useHouse } from '../useHouse'
import { useNews } from '../useNews'
import type { Route } from './+types/handover'

export const meta: Route.MetaFunction = ({ loaderData }) => [
  { title: `${loaderData?.shot.name ?? 'Shot'} · Handover · Fillagrant` },
]

export async function loader({ params }: Route.LoaderArgs) {
  const context = serverContext()
  const { db } = context.database
  const found = await findShot(db, params.shotId)
  if (!found) throw new Response('There is no such shot. It may have been removed.', { status: 404 })
  const { shot, plate, productionName } = found
  const [shots, versions, scene] = await Promise.all([
    listShots(db),
    listVersions(context, shot.id),
    loadScene(db, shot.id),
  ])
  const reviews = await reviewsOf(
    db,
    versions.map(({ version }) => version.id),
  )
  const now = Date.now()
  return {
    roomWarning: await roomWarning(readConfig().dataDir),
    productionName,
    shot: { id: shot.id, name: shot.name, isAllRound: shot.isAllRound },
    shots: shots.map((row) => ({ id: row.shot.id, name: row.shot.name })),
    plate: {
      firstFrame: plate.firstFrame,
      lastFrame: plate.firstFrame + plate.frameCount - 1,
      bitDepth: plate.bitDepth,
    },
    versions: versions.map(({ version, chunks }) => {
      const done = chunks.reduce((sum, chunk) => sum + chunk.framesDone, 0)
      const end = version.finishedAt?.getTime() ?? now
      return {
        id: version.id,
        number: version.number,
        format: version.format,
        firstFrame: version.firstFrame,
        lastFrame: version.lastFrame,
        mendCount: version.mendCount,
        state: version.state,
        awaitsScene: awaitsScene(version, scene),
        error: version.error,
        fileName: version.fileName,
        sizeBytes: version.sizeBytes,
        createdAt: version.createdAt.toISOString(),
        review: reviews.get(version.id)?.[0] ?? null,
        progress: progressOf(
          done,
          version.lastFrame - version.firstFrame + 1,
          version.startedAt ? (end - version.startedAt.getTime()) / 1000 : null,
        ),
      }
    }),
  }
}

const intentSchema = z.enum(['make', 'cancel'])

export async function action({ request, params }: Route.ActionArgs) {
  const context = serverContext()
  const form = Object.fromEntries(await request.formData())
  const intent = intentSchema.safeParse(form['intent'])
  if (!intent.success) return { errors: { form: 'This form is not known here. Reload the page.' } }
  if (intent.data === 'cancel') {
    const id = z.uuid().safeParse(form['versionId'])
    if (id.success) await cancelVersion(context, id.data)
    return { errors: null }
  }
  const asked = versionRequestSchema.safeParse(form)
  if (!asked.success) {
    const errors = Object.fromEntries(
      asked.error.issues.map((issue) => [String(issue.path[0] ?? 'form'), issue.message]),
    )
    return { errors }
  }
  const made = await makeVersion(context, params.shotId, asked.data)
  return { errors: made.ok ? null : { [made.field]: made.message } }
}

export default function Handover({ loaderData, actionData }: Route.ComponentProps) {
  const { productionName, shot, shots, plate, versions } = loaderData
  const isBusy = useNavigation().state === 'submitting'
  const [search] = useSearchParams()
  const errors: Record<string, string> = actionData?.errors ?? {}
  useNews('version', 'note')
  return (
    <div className="flex min-h-screen flex-col">
      <TopBar
        productionName={productionName}
        shot={shot}
        shots={shots}
        stage="handover"
        frame={frameInAddress(search)}
      />
      <main className="mx-auto grid w-full max-w-6xl grow grid-cols-[320px_1fr] gap-8 p-6">
        <section aria-label="Make a version">
          <h1 className="text-xl font-bold">Make a version</h1>
          <RoomNotice words={loaderData.roomWarning} />
          <p className="mt-1 text-soft">
            The mends as they are now, rendered at full quality. Earlier versions stay.
          </p>
          <Form method="post" className="mt-4 flex flex-col gap-4">
            <fieldset className="flex flex-col gap-1">
              <legend className="mb-1 font-semibold">Format</legend>
              {Object.entries(RENDER_FORMATS).map(([format, { title, help }], index) => (
                <label
                  key={format}
                  className="flex gap-2 rounded-sm border border-line p-2 has-checked:border-thread has-checked:bg-raised"
                >
                  <input
                    type="radio"
                    name="format"
                    value={format}
                    defaultChecked={index === 0}
                    className="mt-1 accent-thread"
                  />
                  <span>
                    <span className="block font-semibold">{title}</span>
                    <span className="block text-soft">
                      {help} {format !== 'vp9' && `${plate.bitDepth} bits.`}
                    </span>
                  </span>
                </label>
              ))}
            </fieldset>
            <div className="flex gap-3">
              {(['firstFrame', 'lastFrame'] as const).map((name) => (
                <label key={name} className="flex-1">
                  <span className="block font-semibold">
                    {name === 'firstFrame' ? 'First frame' : 'Last frame'}
                  </span>
                  <input
                    name={name}
                    type="number"
                    required
                    min={plate.firstFrame}
                    max={plate.lastFrame}
                    defaultValue={plate[name]}
                    aria-invalid={errors[name] !== undefined}
                    aria-describedby={errors[name] ? `${name}-error` : undefined}
                    className="mt-1 w-full rounded-sm bg-well px-2 py-1 font-mono"
                  />
                  {errors[name] && (
                    <span id={`${name}-error`} role="alert" className="block text-snag">
                      {errors[name]}
                    </span>
                  )}
                </label>
              ))}
            </div>
            {errors['format'] && (
              <p className="text-snag" role="alert">
                {errors['format']}
              </p>
            )}
            {errors['form'] && (
              <p role="alert" className="text-snag">
                {errors['form']}
              </p>
            )}
            <button
              type="submit"
              name="intent"
              value="make"
              disabled={isBusy}
              className="self-start rounded-sm bg-thread px-4 py-1.5 font-semibold text-well disabled:opacity-60"
            >
              Make version
            </button>
          </Form>
          <p className="mt-6 text-soft">
            The mends themselves:{' '}
            <a className="text-ink underline" href={`/shots/${shot.id}/mends.json`} download>
              mends.json
            </a>
          </p>
        </section>
        <section aria-label="Versions">
          <h2 className="text-xl font-bold">Versions</h2>
          {versions.length === 0 && (
            <p className="mt-2 text-soft">
              None yet. Make the first one on the left; it is rendered by the workers, you may go on mending
              meanwhile.
            </p>
          )}
          <ul className="mt-3 flex flex-col gap-2">
            {versions.map((version) => (
              <VersionRow key={version.id} shotId={shot.id} version={version} />
            ))}
          </ul>
        </section>
      </main>
    </div>
  )
}

type VersionData = Route.ComponentProps['loaderData']['versions'][number]

const STATE_WORDS = {
  waiting: 'waits for a worker',
  rendering: 'rendering',
  assembling: 'putting the file together',
  done: 'done',
  failed: 'failed',
  cancelled: 'cancelled',
} as const

function VersionRow({ shotId, version }: { shotId: string; version: VersionData }) {
  const isOpen =
    version.state === 'waiting' || version.state === 'rendering' || version.state === 'assembling'
  const { done, total, framesPerSecond } = version.progress
  return (
    <li
      className="rounded-sm border border-line bg-raised p-3"
      data-testid="version"
      data-state={version.state}
    >
      <div className="flex items-center gap-3">
        <span className="font-mono text-base font-bold">{versionTitle(version.number)}</span>
        <span>{RENDER_FORMATS[version.format].title}</span>
        <span className="font-mono text-soft">
          {version.firstFrame}–{version.lastFrame} · {version.mendCount}{' '}
          {version.mendCount === 1 ? 'mend' : 'mends'}
        </span>
        <span className="grow" />
        <span
          className={
            version.state === 'failed' ? 'text-snag' : version.state === 'done' ? 'text-thread' : 'text-soft'
          }
        >
          {version.state === 'waiting' && version.awaitsScene
            ? 'waits until the scene’s motion is worked out'
            : STATE_WORDS[version.state]}
        </span>
        {isOpen && (
          <Form method="post">
            <input type="hidden" name="versionId" value={version.id} />
            <button
              type="submit"
              name="intent"
              value="cancel"
              className="rounded-sm border border-line px-2 py-0.5 hover:bg-lifted"
            >
              Cancel
            </button>
          </Form>
        )}
        {version.state === 'done' && (
          <a
            href={`/versions/${version.id}/download`}
            download
            className="flex items-center gap-2 rounded-sm bg-thread px-2.5 py-1 font-semibold text-well"
          >
            <Download aria-hidden className="size-4" /> Download
          </a>
        )}
        {!isOpen && <DeleteVersion version={version} />}
      </div>
      {isOpen && (
        <div className="mt-2 flex flex-col gap-1">
          <ProgressBar share={total ? done / total : null} label={`Version ${version.number}`} />
          <p className="font-mono text-soft" data-testid="progress">
            {progressWords(version.progress)}
          </p>
        </div>
      )}
      {version.state === 'done' && (
        <p className="mt-1 font-mono text-soft">
          {version.fileName} · {sizeWords(version.sizeBytes ?? 0)} · {framesPerSecond?.toFixed(1) ?? '–'} fps
        </p>
      )}
      {version.state === 'done' && (
        <p className="mt-1 text-soft">
          <Link className="text-ink underline" to={`/shots/${shotId}/proof?version=${version.id}`}>
            Proof
          </Link>
          {version.review && ` · ${REVIEW_STATES[version.review.state]} by ${version.review.author}`}
        </p>
      )}
      {version.error && <p className="mt-1 text-snag">{version.error}</p>}
    </li>
  )
}

function DeleteVersion({ version }: { version: VersionData }) {
  const [isAsking, setAsking] = useState(false)
  const house = useHouse()
  const title = versionTitle(version.number)
  return (
    <>
      <button
        type="button"
        aria-label={`Delete ${title}…`}
        title="Delete this version and its file"
        className="rounded-sm border border-line p-1.5 hover:bg-lifted"
        onClick={() => setAsking(true)}
      >
        <Trash2 aria-hidden className="size-4" />
      </button>
      <Modal title={`Delete ${title}`} isOpen={isAsking} onClose={() => setAsking(false)}>
        <p>
          The version, its file and what was measured of it are gone for good. The mends stay: it can be made
          again.
        </p>
        <p className="flex justify-end gap-2">
          <button
            type="button"
            className="rounded-sm border border-line px-3 py-1.5"
            onClick={() => setAsking(false)}
          >
            Keep it
          </button>
          <button
            type="button"
            className="rounded-sm bg-snag px-3 py-1.5 font-semibold text-well"
            onClick={() =>
              void house({ intent: 'delete-version', versionId: version.id }).then(() => setAsking(false))
            }
          >
            Delete
          </button>
        </p>
      </Modal>
    </>
  )
}
