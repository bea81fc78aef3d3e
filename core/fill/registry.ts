import { across } from './across/across'
import { borrow } from './borrow/borrow'
import { cleanPlate } from './cleanPlate/cleanPlate'
import { clone } from './clone/clone'
import { colour } from './colour/colour'
import { cut } from './cut/cut'
import { evenSkin } from './evenSkin/evenSkin'
import { either } from './either/either'
import { heal } from './heal/heal'
import { lift } from './lift/lift'
import { light } from './light/light'
import { liftShadow } from './liftShadow/liftShadow'
import { median } from './median/median'
import { membrane } from './membrane/membrane'
import { near } from './near/near'
import { plate } from './plate/plate'
import { regrain } from './regrain/regrain'
import { soften } from './soften/soften'
import { still } from './still/still'
import { texture } from './texture/texture'
import { unmix } from './unmix/unmix'
import { parameterFields } from '../parameterFields'
import type { Frame } from '../time'
import type { FillMethod } from './method'

/** Every fill, in the order of the picker. A new one is its file, its test and a line here. */
export const fillMethods: readonly FillMethod[] = [
  cleanPlate,
  borrow,
  still,
  across,
  texture,
  either,
  heal,
  clone,
  lift,
  liftShadow,
  unmix,
  evenSkin,
  membrane,
  median,
  near,
  soften,
  light,
  colour,
  regrain,
  plate,
  cut,
]

const byId = new Map<string, FillMethod>()
for (const method of fillMethods) {
  if (byId.has(method.id)) throw new Error(`the fill "${method.id}" is listed twice`)
  byId.set(method.id, method)
}

/** The fill with this id, or undefined. */
export const findFill = (id: string): FillMethod | undefined => byId.get(id)

/** The settings a fill starts with, chosen while a frame was looked at. */
export function defaultsOf(method: FillMethod, frame?: Frame): Record<string, unknown> {
  const params = method.params.parse({})
  if (frame === undefined) return params
  const frames = parameterFields(method.params).filter(({ kind }) => kind === 'frame')
  return { ...params, ...Object.fromEntries(frames.map(({ name }) => [name, frame])) }
}
