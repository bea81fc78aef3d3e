/** Two lists that share most of their items, told by what they do not share. */
import isSame from 'fast-deep-equal'
import { z } from 'zod'

const MOST_ITEMS = 1_000_000

export const keptRunSchema = z.strictObject({
  shape: z.literal('kept'),
  from: z.int().min(0).max(MOST_ITEMS),
  count: z.int().min(1).max(MOST_ITEMS),
})

/** Items that both lists have, by numbers that both give them: `count` of them, numbered on from `from`. */
export type KeptRun = z.output<typeof keptRunSchema>
export type PackedList<T> = readonly (T | KeptRun)[]

export const isKeptRun = (item: unknown): item is KeptRun =>
  typeof item === 'object' && item !== null && 'shape' in item && item.shape === 'kept'

export const isPackedList = (list: readonly unknown[]): boolean => list.some(isKeptRun)

/** What an item of a list is called, once in it. */
type NameOf<T> = (item: T) => string | number

/**
 * Both lists, what they share told by its place in the one before. Items that are the same object cost nothing.
 * @param nameOf  No two items of one list have the same name.
 */
export function packLists<T>(
  before: readonly T[],
  after: readonly T[],
  nameOf: NameOf<T>,
): { readonly before: PackedList<T>; readonly after: PackedList<T> } {
  const placeOf = new Map(before.map((item, i) => [nameOf(item), i]))
  const shared = new Set<number>()
  const kept = after.map((item) => {
    const place = placeOf.get(nameOf(item))
    if (place === undefined || !isSame(before[place], item)) return null
    shared.add(place)
    return place
  })
  return {
    before: inRuns(before, (i) => (shared.has(i) ? i : null)),
    after: inRuns(after, (i) => kept[i]!),
  }
}

/** @param numberAt  Of the item at an index, by which the other list has it too; null where that has another. */
function inRuns<T>(items: readonly T[], numberAt: (index: number) => number | null): PackedList<T> {
  const packed: (T | KeptRun)[] = []
  for (const [i, item] of items.entries()) {
    const number = numberAt(i)
    const last = packed.at(-1)
    if (number === null) packed.push(item)
    else if (isKeptRun(last) && last.from + last.count === number)
      packed[packed.length - 1] = { ...last, count: last.count + 1 }
    else packed.push({ shape: 'kept', from: number, count: 1 })
  }
  return packed
}

/** The list told whole; null where a number stands for nothing, or it would be longer than `most`. */
export function unpackList<T>(
  packed: PackedList<T>,
  numbered: (number: number) => T | undefined,
  most: number,
): T[] | null {
  const items: T[] = []
  for (const item of packed) {
    if (!isKeptRun(item)) items.push(item)
    else
      for (let i = 0; i < item.count; i++) {
        const one = numbered(item.from + i)
        if (one === undefined || items.length >= most) return null
        items.push(one)
      }
  }
  return items
}

/** What the numbers of one list stand for, told by its items; null where those are not the ones that it speaks of. */
export function numbersIn<T, I extends T>(
  packed: PackedList<T>,
  items: readonly I[],
  nameOf: NameOf<T>,
): ReadonlyMap<number, I> | null {
  const numbers = new Map<number, I>()
  let at = 0
  for (const one of packed) {
    if (!isKeptRun(one)) {
      const item = items[at++]
      if (item === undefined || nameOf(item) !== nameOf(one)) return null
    } else {
      if (at + one.count > items.length) return null
      for (let i = 0; i < one.count; i++) numbers.set(one.from + i, items[at++]!)
    }
  }
  return at === items.length ? numbers : null
}
