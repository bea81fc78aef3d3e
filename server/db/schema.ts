/** Tables. Pixels are never in the database; frames and finished files lie in the data folder. */
import { sql } from 'drizzle-orm'
import {
  bigint,
  boolean,
  check,
  date,
  doublePrecision,
  index,
  integer,
  jsonb,
  pgTable,
  primaryKey,
  text,
  timestamp,
  unique,
  uuid,
  type AnyPgColumn,
} from 'drizzle-orm/pg-core'
import type { MendDocument } from '../../core/document/document'
import type { PackedEdit } from '../../core/document/packedEdit'
import type { EditRole } from '../../core/document/history'
import type { MendRecord } from '../../core/document/mend'
import type { Track } from '../../core/document/tracks'
import type { Scene } from '../../core/scene/scene'
import type { KeptPlace } from '../../core/document/markLibrary'
import type { GatherState } from '../../core/jobs/gather'
import type { Find } from '../../core/survey/finds'
import type { SensorMap } from '../../core/survey/sensorMap'
import type { Recipe } from '../../core/document/recipes'
import type { SurveyAbout, SurveyState } from '../../core/jobs/survey'
import type { Role } from '../../core/jobs/roles'
import type { SceneState } from '../../core/jobs/scene'
import type { VersionView, ViewState } from '../../core/jobs/view'
import type { StraightView } from '../../core/sphere/straightView'
import type { FrameProof } from '../../core/proof/frameProof'
import type { ReviewState } from '../../core/proof/review'
import type { SpherePose } from '../media/sphere.server'
import type { ImportPlan } from '../media/importPlan.server'

const at = (name: string) => timestamp(name, { withTimezone: true })

export const productions = pgTable('productions', {
  id: text('id').primaryKey(),
  name: text('name').notNull(),
  /** Shipped with the application: its shots cannot be deleted. */
  isDemo: boolean('is_demo').notNull().default(false),
  /** Out of sight since then: nothing is brought in there. */
  archivedAt: at('archived_at'),
  /** In the bin since then, with all its shots. */
  deletedAt: at('deleted_at'),
  createdAt: at('created_at').notNull().defaultNow(),
})

/** Camera bodies; what is bad on their sensors is in their maps. */
export const cameras = pgTable(
  'cameras',
  {
    id: uuid('id').primaryKey(),
    productionId: text('production_id')
      .notNull()
      .references(() => productions.id),
    name: text('name').notNull(),
    sensorWidth: integer('sensor_width').notNull(),
    sensorHeight: integer('sensor_height').notNull(),
    createdAt: at('created_at').notNull().defaultNow(),
  },
  (table) => [unique('cameras_name').on(table.productionId, table.name)],
)

export const sensorMaps = pgTable('sensor_maps', {
  id: uuid('id').primaryKey(),
  cameraId: uuid('camera_id')
    .notNull()
    .references(() => cameras.id, { onDelete: 'cascade' }),
  /** The day on which the clip was shot that tells it. */
  madeOn: date('made_on', { mode: 'string' }).notNull(),
  pixels: jsonb('pixels').$type<SensorMap['pixels']>().notNull(),
  motes: jsonb('motes').$type<SensorMap['motes']>().notNull(),
  createdAt: at('created_at').notNull().defaultNow(),
})

/** Pictures of marks that have a name, to be taken off the next clip; the pictures themselves are files. */
export const marks = pgTable(
  'marks',
  {
    id: uuid('id').primaryKey(),
    productionId: text('production_id')
      .notNull()
      .references(() => productions.id),
    name: text('name').notNull(),
    /** As fills know it. */
    picture: text('picture').notNull(),
    width: integer('width').notNull(),
    height: integer('height').notNull(),
    /** Where it lay on the shot that it was worked out from. */
    place: jsonb('place').$type<KeptPlace>(),
    createdAt: at('created_at').notNull().defaultNow(),
  },
  (table) => [unique('marks_name').on(table.productionId, table.name)],
)

/** Settings of mends, to use again. */
export const recipes = pgTable(
  'recipes',
  {
    id: uuid('id').primaryKey(),
    productionId: text('production_id')
      .notNull()
      .references(() => productions.id),
    name: text('name').notNull(),
    recipe: jsonb('recipe').$type<Recipe>().notNull(),
    createdAt: at('created_at').notNull().defaultNow(),
  },
  (table) => [unique('recipes_name').on(table.productionId, table.name)],
)

export const shots = pgTable('shots', {
  /** Made from the name; part of every address, so it never changes. */
  id: text('id').primaryKey(),
  productionId: text('production_id')
    .notNull()
    .references(() => productions.id),
  name: text('name').notNull(),
  title: text('title').notNull().default(''),
  /** The body it was shot with, where one knows. */
  cameraId: uuid('camera_id').references(() => cameras.id, { onDelete: 'set null' }),
  /** Number of edits so far. */
  revision: integer('revision').notNull().default(0),
  /** Whether its picture is known to be all-round. */
  isAllRound: boolean('is_all_round').notNull().default(false),
  /** In the bin since then; emptied after some days. */
  deletedAt: at('deleted_at'),
  createdAt: at('created_at').notNull().defaultNow(),
})

/** Straight views of all-round shots to work in: each becomes a shot of its own, and goes back when its all-round shot is rendered. */
export const views = pgTable(
  'views',
  {
    id: uuid('id').primaryKey(),
    shotId: text('shot_id')
      .notNull()
      .references(() => shots.id, { onDelete: 'cascade' }),
    name: text('name').notNull(),
    view: jsonb('view').$type<StraightView>().notNull(),
    state: text('state').$type<ViewState>().notNull(),
    framesDone: integer('frames_done').notNull().default(0),
    framesTotal: integer('frames_total').notNull(),
    error: text('error'),
    startedAt: at('started_at'),
    /** The shot that it has become. */
    madeShotId: text('made_shot_id')
      .unique()
      .references(() => shots.id, { onDelete: 'cascade' }),
    createdAt: at('created_at').notNull().defaultNow(),
  },
  (table) => [index('views_of_shot').on(table.shotId)],
)

export const plates = pgTable(
  'plates',
  {
    id: uuid('id').primaryKey(),
    shotId: text('shot_id')
      .notNull()
      .unique()
      .references(() => shots.id, { onDelete: 'cascade' }),
    sourceName: text('source_name').notNull(),
    width: integer('width').notNull(),
    height: integer('height').notNull(),
    channels: integer('channels').notNull(),
    bitDepth: integer('bit_depth').notNull(),
    rateNum: integer('rate_num').notNull(),
    rateDen: integer('rate_den').notNull(),
    firstFrame: integer('first_frame').notNull(),
    frameCount: integer('frame_count').notNull(),
    /** Where the footage says of itself that it is all-round. */
    sphere: jsonb('sphere').$type<SpherePose>(),
    /** Frames that came damaged, and were taken in all the same. */
    damagedFrames: jsonb('damaged_frames').$type<readonly number[]>().notNull().default([]),
  },
  (table) => [
    check('plates_depth', sql`${table.bitDepth} in (8, 16)`),
    check('plates_frames', sql`${table.frameCount} > 0`),
  ],
)

export type ImportState = 'uploading' | 'waiting' | 'decoding' | 'damaged' | 'done' | 'failed' | 'cancelled'

/** Footage on its way in. The shot is made when the last frame is safe, never before. */
export const imports = pgTable('imports', {
  id: uuid('id').primaryKey(),
  productionId: text('production_id')
    .notNull()
    .references(() => productions.id),
  name: text('name').notNull(),
  plan: jsonb('plan').$type<ImportPlan>().notNull(),
  state: text('state').$type<ImportState>().notNull(),
  framesDone: integer('frames_done').notNull().default(0),
  framesTotal: integer('frames_total'),
  error: text('error'),
  /** The user has chosen to have it as it is, with what is damaged marked. */
  takesDamaged: boolean('takes_damaged').notNull().default(false),
  shotId: text('shot_id').references(() => shots.id, { onDelete: 'set null' }),
  createdAt: at('created_at').notNull().defaultNow(),
  startedAt: at('started_at'),
})

export const mends = pgTable(
  'mends',
  {
    shotId: text('shot_id')
      .notNull()
      .references(() => shots.id, { onDelete: 'cascade' }),
    id: text('id').notNull(),
    record: jsonb('record').$type<MendRecord>().notNull(),
    /** Of the record: for counting without reading it. */
    isOn: boolean('is_on').generatedAlwaysAs(sql`coalesce((record ->> 'isOn')::boolean, true)`),
  },
  (table) => [primaryKey({ columns: [table.shotId, table.id] })],
)

export const tracks = pgTable(
  'tracks',
  {
    shotId: text('shot_id')
      .notNull()
      .references(() => shots.id, { onDelete: 'cascade' }),
    id: text('id').notNull(),
    record: jsonb('record').$type<Track>().notNull(),
  },
  (table) => [primaryKey({ columns: [table.shotId, table.id] })],
)

/** How the background of a shot moves; worked out after import, and again when asked. */
export const scenes = pgTable('scenes', {
  shotId: text('shot_id')
    .primaryKey()
    .references(() => shots.id, { onDelete: 'cascade' }),
  state: text('state').$type<SceneState>().notNull(),
  stepsDone: integer('steps_done').notNull().default(0),
  stepsTotal: integer('steps_total').notNull().default(0),
  /** The last one that was finished; kept while a new one is worked out. */
  scene: jsonb('scene').$type<Scene>(),
  /** The shot's revision whose mends were left out. */
  revision: integer('revision').notNull().default(0),
  error: text('error'),
})

/** Mends whose frames are gathered ahead, by workers. */
export const gathers = pgTable(
  'gathers',
  {
    shotId: text('shot_id')
      .notNull()
      .references(() => shots.id, { onDelete: 'cascade' }),
    mendId: text('mend_id').notNull(),
    state: text('state').$type<GatherState>().notNull(),
    framesDone: integer('frames_done').notNull().default(0),
    framesTotal: integer('frames_total').notNull().default(0),
    startedAt: at('started_at'),
    error: text('error'),
  },
  (table) => [primaryKey({ columns: [table.shotId, table.mendId] })],
)

/** The last survey of a shot: how far it is, and what it said of the clip as a whole. */
export const surveys = pgTable('surveys', {
  shotId: text('shot_id')
    .primaryKey()
    .references(() => shots.id, { onDelete: 'cascade' }),
  state: text('state').$type<SurveyState>().notNull(),
  framesDone: integer('frames_done').notNull().default(0),
  framesTotal: integer('frames_total').notNull().default(0),
  /** Of the last one that was finished. */
  about: jsonb('about').$type<SurveyAbout>(),
  startedAt: at('started_at'),
  error: text('error'),
})

/** What surveys have found. What was dismissed stays so in every later survey. */
export const finds = pgTable(
  'finds',
  {
    shotId: text('shot_id')
      .notNull()
      .references(() => shots.id, { onDelete: 'cascade' }),
    id: text('id').notNull(),
    find: jsonb('find').$type<Find>().notNull(),
    isDismissed: boolean('is_dismissed').notNull().default(false),
    /** Whether the last survey has found it too. */
    isCurrent: boolean('is_current').notNull().default(true),
  },
  (table) => [primaryKey({ columns: [table.shotId, table.id] })],
)

/** Every step ever made, in order; it carries undo across sessions. Only added to. */
export const edits = pgTable(
  'edits',
  {
    shotId: text('shot_id')
      .notNull()
      .references(() => shots.id, { onDelete: 'cascade' }),
    revision: integer('revision').notNull(),
    /** Chosen by whoever made the edit, so that sending it twice stores it once. */
    editId: uuid('edit_id').notNull().unique(),
    role: text('role').$type<EditRole>().notNull(),
    /** The edit that an undo takes back or a redo makes again. */
    targetId: uuid('target_id'),
    /** As it was sent: what stays as it is is told by number. */
    edit: jsonb('edit').$type<PackedEdit>().notNull(),
    createdAt: at('created_at').notNull().defaultNow(),
  },
  (table) => [primaryKey({ columns: [table.shotId, table.revision] })],
)

export type VersionState = 'waiting' | 'rendering' | 'assembling' | 'done' | 'failed' | 'cancelled'

export const versions = pgTable(
  'versions',
  {
    id: uuid('id').primaryKey(),
    shotId: text('shot_id')
      .notNull()
      .references(() => shots.id, { onDelete: 'cascade' }),
    number: integer('number').notNull(),
    format: text('format').$type<'png' | 'ffv1' | 'vp9'>().notNull(),
    firstFrame: integer('first_frame').notNull(),
    lastFrame: integer('last_frame').notNull(),
    /** The mends as they were when the version was asked for. */
    document: jsonb('document').$type<MendDocument>().notNull(),
    /** Of the document, for lists: how many mends are on, and whether any needs to know how the scene moves. */
    mendCount: integer('mend_count').notNull().default(0),
    needsScene: boolean('needs_scene').notNull().default(false),
    /** The scene's motion as it was then. */
    scene: jsonb('scene').$type<Scene>(),
    /** Of an all-round shot, what was mended in its views. */
    views: jsonb('views').$type<readonly VersionView[]>().notNull().default([]),
    state: text('state').$type<VersionState>().notNull(),
    fileName: text('file_name'),
    sizeBytes: bigint('size_bytes', { mode: 'number' }),
    error: text('error'),
    createdAt: at('created_at').notNull().defaultNow(),
    startedAt: at('started_at'),
    finishedAt: at('finished_at'),
  },
  (table) => [
    unique('versions_number').on(table.shotId, table.number),
    index('versions_recent').on(table.createdAt.desc().nullsFirst()),
  ],
)

export const renderChunks = pgTable(
  'render_chunks',
  {
    versionId: uuid('version_id')
      .notNull()
      .references(() => versions.id, { onDelete: 'cascade' }),
    index: integer('index').notNull(),
    firstFrame: integer('first_frame').notNull(),
    lastFrame: integer('last_frame').notNull(),
    isDone: boolean('is_done').notNull().default(false),
    framesDone: integer('frames_done').notNull().default(0),
    /** How often it was begun; above 1 where a worker was lost. */
    attempts: integer('attempts').notNull().default(0),
  },
  (table) => [primaryKey({ columns: [table.versionId, table.index] })],
)

export type ProofState = 'waiting' | 'working' | 'done' | 'failed' | 'cancelled'

/** What was measured of a version, or of the mends of a shot as they were last looked at. */
export const proofs = pgTable(
  'proofs',
  {
    id: uuid('id').primaryKey(),
    shotId: text('shot_id')
      .notNull()
      .references(() => shots.id, { onDelete: 'cascade' }),
    /** Null: of the mends as they were. */
    versionId: uuid('version_id').references(() => versions.id, { onDelete: 'cascade' }),
    state: text('state').$type<ProofState>().notNull(),
    framesDone: integer('frames_done').notNull().default(0),
    framesTotal: integer('frames_total').notNull(),
    /** The shot's revision whose mends were measured. */
    revision: integer('revision').notNull().default(0),
    startedAt: at('started_at'),
    finishedAt: at('finished_at'),
    error: text('error'),
  },
  (table) => [unique('proofs_of').on(table.shotId, table.versionId).nullsNotDistinct()],
)

export const proofFrames = pgTable(
  'proof_frames',
  {
    proofId: uuid('proof_id')
      .notNull()
      .references(() => proofs.id, { onDelete: 'cascade' }),
    frame: integer('frame').notNull(),
    /** Equal exactly when all that was measured is: then it need not be measured again. */
    name: text('name').notNull(),
    plateSha256: text('plate_sha256').notNull(),
    resultSha256: text('result_sha256').notNull(),
    /** Samples that differ from the plate where no mend has laid anything. */
    changedOutside: integer('changed_outside').notNull(),
    /** Whether what was taken away is what was rendered, sample by sample; null where it is not lossless, or nothing was taken away. */
    isAsRendered: boolean('is_as_rendered'),
    proof: jsonb('proof').$type<FrameProof>().notNull(),
  },
  (table) => [primaryKey({ columns: [table.proofId, table.frame] })],
)

/** What people say of a shot, at a frame, a range, or a place of the picture. Answers say to what. */
export const notes = pgTable(
  'notes',
  {
    id: uuid('id').primaryKey(),
    shotId: text('shot_id')
      .notNull()
      .references(() => shots.id, { onDelete: 'cascade' }),
    versionId: uuid('version_id').references(() => versions.id, { onDelete: 'set null' }),
    answerTo: uuid('answer_to').references((): AnyPgColumn => notes.id, { onDelete: 'cascade' }),
    firstFrame: integer('first_frame').notNull(),
    lastFrame: integer('last_frame').notNull(),
    x: doublePrecision('x'),
    y: doublePrecision('y'),
    words: text('words').notNull(),
    author: text('author').notNull(),
    createdAt: at('created_at').notNull().defaultNow(),
    resolvedAt: at('resolved_at'),
    resolvedBy: text('resolved_by'),
  },
  (table) => [index('notes_of_shot').on(table.shotId)],
)

/** What was decided of versions, one after the other; the last one holds. */
export const reviews = pgTable(
  'reviews',
  {
    id: uuid('id').primaryKey(),
    versionId: uuid('version_id')
      .notNull()
      .references(() => versions.id, { onDelete: 'cascade' }),
    state: text('state').$type<ReviewState>().notNull(),
    author: text('author').notNull(),
    createdAt: at('created_at').notNull().defaultNow(),
  },
  (table) => [index('reviews_of_version').on(table.versionId, table.createdAt)],
)

/** A living worker writes here every few seconds; who falls silent loses its jobs to the others. */
export const workerBeats = pgTable('worker_beats', {
  workerId: text('worker_id').primaryKey(),
  at: at('at').notNull().defaultNow(),
})

/** People who sign in. */
export const accounts = pgTable('accounts', {
  id: uuid('id').primaryKey(),
  /** As it is typed and shown; no two that differ only by case. */
  name: text('name').notNull(),
  foldedName: text('folded_name').notNull().unique(),
  /** Salt and parameters with it. */
  passwordHash: text('password_hash').notNull(),
  role: text('role').$type<Role>().notNull(),
  createdAt: at('created_at').notNull().defaultNow(),
})

/** Who is signed in. What a browser holds is not stored, only its digest. */
export const sessions = pgTable(
  'sessions',
  {
    tokenDigest: text('token_digest').primaryKey(),
    accountId: uuid('account_id')
      .notNull()
      .references(() => accounts.id, { onDelete: 'cascade' }),
    createdAt: at('created_at').notNull().defaultNow(),
    seenAt: at('seen_at').notNull().defaultNow(),
  },
  (table) => [index('sessions_of_account').on(table.accountId)],
)
