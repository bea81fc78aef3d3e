/** Acts of housekeeping from a page: what came of them is said, and what was put away can be put back at once. */
import { useRevalidator } from 'react-router'
import { toast } from 'sonner'
import type { HouseAnswer, HouseOrder } from '../core/jobs/houseOrders'

/** @returns Carries an order out; the page's data are looked at again. */
export function useHouse(): (order: HouseOrder, undo?: HouseOrder) => Promise<boolean> {
  const { revalidate } = useRevalidator()
  const carryOut = async (order: HouseOrder, undo?: HouseOrder): Promise<boolean> => {
    const answer = await send(order)
    if (answer.ok)
      toast.success(answer.message, undo && { duration: 10_000, action: { label: 'Put back', onClick: () => void carryOut(undo) } }) // prettier-ignore
    else toast.error(answer.message)
    await revalidate()
    return answer.ok
  }
  return carryOut
}

async function send(order: HouseOrder): Promise<HouseAnswer> {
  try {
    const response = await fetch('/house', { method: 'POST', headers: { 'Content-Type': 'application/json' }, body: JSON.stringify(order) }) // prettier-ignore
    return { ok: response.ok, message: ((await response.json()) as Partial<HouseAnswer>).message ?? `The server answered ${response.status}.` } // prettier-ignore
  } catch {
    return { ok: false, message: 'The server could not be reached. Nothing was changed.' }
  }
}

/** What stands in a field of a form. */
export function fieldOf(form: HTMLFormElement, name: string): string {
  const value = new FormData(form).get(name)
  return typeof value === 'string' ? value : ''
}
