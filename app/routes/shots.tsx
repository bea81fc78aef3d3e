import { Link, useSearchParams } from 'react-router'
import { useDropzone } from 'react-dropzone'
import { useState } from 'react'
import { Archive, Cpu, FileUp } from 'lucide-react'
import { EVERY_SHOT, shotFilterSchema, shotsShown, type ShotFilter } from '../../core/jobs/shotList'
import { mayBeAllRound } from '../../core/sphere/straightView'
import { formatFrameRate } from '../../core/time'
import { REVIEW_STATES } from '../../core/proof/review'
import { serverContext } from '../../server/context.server'
import { readConfig } from '../../server/config.server'
import { roomWarning } from '../../server/room.server'
import { listOpenImports } from '../../server/imports.server'
import { countMends, listProductions, listShots } from '../../server/shots.server'
import { countOpenNotes, lastReviews } from '../../server/notes.server'
import { TopBar } from '../../workbench/shell/TopBar'
import { ProgressBar } from '../../workbench/progress/ProgressBar'
import { progressOf, progressWords } from '../../workbench/progress/progress'
import { RoomNotice } from '../RoomNotice'
import { ShotFilterBar } from '../ShotFilterBar'
import { ShotMenu } from '../ShotMenu'
import { useNews } from '../useNews'
import { useUploads, type Upload } from '../useUploads'
import type { Route } from './+types/shots'

export const meta: Route.MetaFunction = () => [{ title: 'Shots · Fillagrant' }]

export async function loader() {
  const context = serverContext()
  const { db } = context.database
  const [shots, counts, imports, notes, standings] = await Promise.all([
    listShots(db),
    countMends(db),
    listOpenImports(context),
    countOpenNotes(db),
    lastReviews(db),
  ])
  const now = Date.now()
  return {
    roomWarning: await roomWarning(readConfig().dataDir),
    productions: await listProductions(db),
    shots: shots.map(({ shot, plate, productionName }) => ({
      id: shot.id,
      productionId: shot.productionId,
      productionName,
      name: shot.name,
      title: shot.title,
      plateId: plate.id,
      width: plate.width,
      height: plate.height,
      rate: formatFrameRate({ num: plate.rateNum, den: plate.rateDen }),
      firstFrame: plate.firstFrame,
      frameCount: plate.frameCount,
      bitDepth: plate.bitDepth,
      damaged: plate.damagedFrames.length,
      revision: shot.revision,
      mends: counts.get(shot.id) ?? { all: 0, on: 0 },
      notes: notes.get(shot.id) ?? 0,
      standing: standings.get(shot.id) ?? null,
      isAllRound: shot.isAllRound,
      mayBeAllRound: mayBeAllRound(plate),
    })),
    imports: imports.map((one) => ({
      id: one.id,
      name: one.name,
      state: one.state,
      error: one.error,
      progress: progressOf(
        one.framesDone,
        one.framesTotal,
        one.startedAt ? (now - one.startedAt.getTime()) / 1000 : null,
      ),
    })),
  }
}

type ShotCardData = Route.ComponentProps['loaderData']['shots'][number]
type ImportCardData = Route.ComponentProps['loaderData']['imports'][number]

const RATES = [
  ['24', { num: 24, den: 1 }],
  ['23.976', { num: 24000, den: 1001 }],
  ['25', { num: 25, den: 1 }],
  ['29.97', { num: 30000, den: 1001 }],
  ['30', { num: 30, den: 1 }],
] as const

export default function Shots({ loaderData }: Route.ComponentProps) {
  const { shots, imports, productions } = loaderData
  const [search, setSearch] = useSearchParams()
  const filter = shotFilterSchema.parse(Object.fromEntries(search))
  const shown = shotsShown(shots, filter)
  const [rate, setRate] = useState('24')
  const { uploads, begin, cancel, dismiss } = useUploads()
  useNews('import', 'shot')
  const { getRootProps, getInputProps, isDragActive, open } = useDropzone({
    noClick: true,
    noKeyboard: true,
    useFsAccessApi: false,
    onDrop: (files) => void begin(files, RATES.find(([name]) => name === rate)![1]),
  })
  // While files are still being sent, the card of the upload stands for the import.
  const sending = new Set(
    uploads.filter((upload) => upload.state === 'sending').map((upload) => upload.importId),
  )
  const totalMends = shots.reduce((sum, shot) => sum + shot.mends.all, 0)
  return (
    <div {...getRootProps({ className: 'flex min-h-screen flex-col' })}>
      <TopBar productionName="All productions" shots={[]} stage="shots" />
      <main className="grow p-6">
        <input {...getInputProps({ 'aria-label': 'Footage files' })} data-testid="file-input" />
        <RoomNotice words={loaderData.roomWarning} />
        <div className="mb-5 flex items-center gap-4">
          <h1 className="text-xl font-bold">Shots</h1>
          <p className="text-soft">
            {shots.length} {shots.length === 1 ? 'shot' : 'shots'} · {totalMends}{' '}
            {totalMends === 1 ? 'mend' : 'mends'}
          </p>
          <span className="grow" />
          <Link
            to="/productions"
            className="flex items-center gap-2 rounded-sm border border-line px-3 py-1.5 hover:bg-raised"
          >
            <Archive aria-hidden className="size-4" />
            Productions and bin
          </Link>
          <Link
            to="/cameras"
            className="flex items-center gap-2 rounded-sm border border-line px-3 py-1.5 hover:bg-raised"
          >
            <Cpu aria-hidden className="size-4" />
            Cameras
          </Link>
          <label className="flex items-center gap-2 text-soft">
            Rate of numbered pictures
            <select
              className="rounded-sm bg-well px-2 py-1 font-mono text-ink"
              value={rate}
              onChange={(event) => setRate(event.target.value)}
            >
              {RATES.map(([name]) => (
                <option key={name}>{name}</option>
              ))}
            </select>
            fps
          </label>
          <button
            type="button"
            className="flex items-center gap-2 rounded-sm bg-thread px-3 py-1.5 font-semibold text-well"
            onClick={open}
          >
            <FileUp aria-hidden className="size-4" />
            Bring in footage
          </button>
        </div>
        <ShotFilterBar
          filter={filter}
          productions={productions}
          words={shown.length === shots.length ? '' : `${shown.length} of ${shots.length}`}
          onChange={(next) => setSearch(whatDiffers(next), { replace: true, preventScrollReset: true })}
        />
        <ul className="grid grid-cols-[repeat(auto-fill,minmax(280px,1fr))] gap-4">
          {uploads.map((upload) => (
            <UploadCard
              key={upload.key}
              upload={upload}
              onCancel={() => cancel(upload.key)}
              onDismiss={() => dismiss(upload.key)}
            />
          ))}
          {imports
            .filter((one) => !sending.has(one.id))
            .map((one) => (
              <ImportCard key={one.id} data={one} />
            ))}
          {shown.map((shot) => (
            <ShotCard key={shot.id} shot={shot} productions={productions} />
          ))}
          <li
            className={`flex aspect-video flex-col items-center justify-center rounded-sm border-2 border-dashed p-4 text-center ${isDragActive ? 'border-thread text-ink' : 'border-line text-soft'}`}
          >
            <p>{isDragActive ? 'Let go to bring it in' : 'Drop a video or numbered pictures anywhere'}</p>
            <p className="mt-1 font-mono text-xs">MOV MP4 MKV WebM AVI Y4M · PNG TIFF JPEG WebP DPX</p>
          </li>
        </ul>
      </main>
    </div>
  )
}

/** Only what is not as it is without being said. */
const whatDiffers = (filter: ShotFilter): Record<string, string> =>
  Object.fromEntries(
    Object.entries(filter).filter(([name, value]) => value !== EVERY_SHOT[name as keyof ShotFilter]),
  )

function ShotCard({
  shot,
  productions,
}: {
  shot: ShotCardData
  productions: Route.ComponentProps['loaderData']['productions']
}) {
  const [frame, setFrame] = useState(shot.firstFrame + Math.floor(shot.frameCount / 2))
  return (
    <li data-testid="shot-card" className="relative">
      <Link
        to={`/shots/${shot.id}/mend`}
        reloadDocument
        className="block rounded-sm"
        aria-label={`Mend ${shot.name}`}
      >
        <img
          src={`/shots/${shot.id}/thumbnails/${frame}?revision=${shot.revision}`}
          alt=""
          className="aspect-video w-full rounded-sm bg-well object-cover"
          onPointerMove={(event) => {
            const box = event.currentTarget.getBoundingClientRect()
            const share = Math.min(Math.max((event.clientX - box.left) / box.width, 0), 0.999)
            // Every fourth frame: enough to see it move, few enough to load.
            setFrame(shot.firstFrame + Math.floor((share * shot.frameCount) / 4) * 4)
          }}
        />
        <span className="mt-1.5 flex items-baseline gap-2">
          <span className="font-mono font-bold">{shot.name}</span>{' '}
          <span className="truncate">{shot.title}</span>
        </span>
        <span className="block text-soft">
          {shot.mends.all === 0
            ? 'nothing mended yet'
            : `${shot.mends.on} of ${shot.mends.all} ${shot.mends.all === 1 ? 'mend' : 'mends'} on`}
        </span>
        {(shot.notes > 0 || shot.standing) && (
          <span className="block text-soft">
            {[
              ...(shot.notes > 0 ? [shot.notes === 1 ? '1 note' : `${shot.notes} notes`] : []),
              ...(shot.standing
                ? [`version ${shot.standing.number}: ${REVIEW_STATES[shot.standing.state].toLowerCase()}`]
                : []),
            ].join(' · ')}
          </span>
        )}
        <span className="block truncate font-mono text-xs text-soft">
          {shot.width}×{shot.height} · {shot.bitDepth} bit · {shot.rate} fps · {shot.frameCount} fr
          {shot.damaged > 0 && ` · ${shot.damaged} damaged`}
        </span>
      </Link>
      {(shot.isAllRound || shot.mayBeAllRound) && (
        <Link
          to={`/shots/${shot.id}/around`}
          className="mt-1 inline-block text-soft underline hover:text-ink"
        >
          {shot.isAllRound ? 'Look around' : 'All-round? Look around'}
        </Link>
      )}
      <ShotMenu shot={shot} productions={productions} />
    </li>
  )
}

const IMPORT_WORDS: Readonly<Record<string, string>> = {
  uploading: 'the files have not all arrived',
  waiting: 'waits for a worker',
  decoding: 'decoding',
}

function ImportCard({ data }: { data: ImportCardData }) {
  const remove = () => void fetch(`/imports/${data.id}`, { method: 'DELETE' })
  if (data.state === 'damaged') {
    const take = () => void fetch(`/imports/${data.id}?damaged`, { method: 'POST' })
    return (
      <FailedCard name={data.name} message={data.error ?? 'It is damaged.'} onDismiss={remove}>
        <button type="button" className={CARD_BUTTON} onClick={take}>
          Take it in as it is
        </button>
      </FailedCard>
    )
  }
  if (data.state === 'failed') {
    return (
      <FailedCard name={data.name} message={data.error ?? 'It could not be brought in.'} onDismiss={remove} />
    )
  }
  const { done, total } = data.progress
  return (
    <li
      className="flex aspect-video flex-col justify-center gap-2 rounded-sm border border-line p-5"
      data-testid="import-card"
    >
      <p className="font-mono font-bold">{data.name}</p>
      <ProgressBar share={total ? done / total : null} label={`${data.name}: decoding`} />
      <p className="font-mono text-soft">
        {IMPORT_WORDS[data.state]} {data.state === 'decoding' && progressWords(data.progress)}
      </p>
      <button
        type="button"
        className="self-start rounded-sm border border-line px-2 py-0.5 hover:bg-raised"
        onClick={remove}
      >
        Cancel
      </button>
    </li>
  )
}

function UploadCard({
  upload,
  onCancel,
  onDismiss,
}: {
  upload: Upload
  onCancel: () => void
  onDismiss: () => void
}) {
  if (upload.state === 'failed')
    return <FailedCard name={upload.name} message={upload.message} onDismiss={onDismiss} />
  return (
    <li className="flex aspect-video flex-col justify-center gap-2 rounded-sm border border-line p-5">
      <p className="font-mono font-bold">{upload.name}</p>
      <ProgressBar
        share={upload.totalBytes ? upload.sentBytes / upload.totalBytes : null}
        label={`${upload.name}: sending`}
      />
      <p className="font-mono text-soft">{upload.words}</p>
      <button
        type="button"
        className="self-start rounded-sm border border-line px-2 py-0.5 hover:bg-raised"
        onClick={onCancel}
      >
        Cancel
      </button>
    </li>
  )
}

const CARD_BUTTON = 'rounded-sm border border-line px-2 py-0.5 hover:bg-raised'

function FailedCard({
  name,
  message,
  onDismiss,
  children,
}: {
  name: string
  message: string
  onDismiss: () => void
  /** What else can be done about it. */
  children?: React.ReactNode
}) {
  return (
    <li
      role="alert"
      className="flex aspect-video flex-col gap-2 overflow-y-auto rounded-sm border border-snag p-4"
      data-testid="failed-card"
    >
      <p className="font-mono font-bold text-snag">
        {name} {/^\d+ files$/.test(name) ? 'were' : 'was'} not brought in
      </p>
      <p className="grow">{message}</p>
      <p className="flex gap-2">
        {children}
        <button type="button" className={CARD_BUTTON} onClick={onDismiss}>
          Dismiss
        </button>
      </p>
    </li>
  )
}
