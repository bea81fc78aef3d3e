/** The library of marks, shared by all who show it. */
import { useCallback } from 'react'
import { useFetcher } from 'react-router'
import type { ListedMark, MarkCommand, MarkDone } from '../../core/document/markLibrary'
import { useCommands, type Commands } from '../useCommands'

const ADDRESS = '/mark-library'

export function useMarkLibrary(): { readonly marks: readonly ListedMark[]; load(): void } {
  const { data, load } = useFetcher<{ readonly marks: readonly ListedMark[] }>({ key: 'marks' })
  return { marks: data?.marks ?? [], load: useCallback(() => void load(ADDRESS), [load]) }
}

/** @param onDone  Told once what was asked is done, with the mark that came of it. */
export const useMarkCommand = (onDone?: (markId: string | null) => void): Commands<MarkCommand> =>
  useCommands<MarkCommand, MarkDone>(ADDRESS, ({ markId }) => onDone?.(markId))

/** Where the picture of a mark is to be had. */
export const pictureAddress = (name: string): string =>
  `/marks/${encodeURIComponent(name.slice('mark:'.length))}`

/** Brings in a picture with alpha. @returns The name that fills know it by. @throws Error in words. */
export async function bringInMark(file: File): Promise<string> {
  const response = await fetch(`/marks?name=${encodeURIComponent(file.name)}`, { method: 'PUT', body: file })
  const answer = (await response.json().catch(() => ({}))) as { name?: string; message?: string }
  if (!response.ok || !answer.name)
    throw new Error(answer.message ?? `The server answered ${response.status}.`)
  return answer.name
}
