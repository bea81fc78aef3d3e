/** @jest-environment <rootDir>/jest.browser.mjs */
import '@testing-library/jest-dom'
import { act, screen, within } from '@testing-library/react'
import userEvent from '@testing-library/user-event'
import { useState, type ComponentType } from 'react'
import type { Note } from '../../core/proof/notes'
import type { ProofStatus } from '../../core/proof/proofStatus'
import type { Snag } from '../../core/snags/snags'
import { renderOnBench } from '../../tests/fixtures/renderOnBench'
import { sampleRecord } from '../../tests/fixtures/sampleMend'
import { useAuthor } from './author'
import { NotesPart } from './NotesPart'
import { ProofContext, type NoteOrder, type ProofParts, type ProvedVersion } from './ProofContext'
import { ReviewPart } from './ReviewPart'
import { SnagList } from './SnagList'

const VERSION: ProvedVersion = {
  id: '7d444840-9dc0-41d1-9245-5ffdce74fad2',
  number: 3,
  formatTitle: 'PNG pictures',
  isLossless: true,
  firstFrame: 1001,
  lastFrame: 1010,
  reviews: [],
}

const STATUS: ProofStatus = {
  state: 'done',
  framesDone: 10,
  framesTotal: 10,
  seconds: 4,
  error: null,
  revision: 1,
  measured: 10,
  changedOutside: 0,
  changedFrames: [],
  notAsRendered: null,
  charts: [],
  snags: [],
}

const note = (over: Partial<Note> = {}): Note => ({
  id: 'c7d2f9a0-3e0b-4a57-9d55-0c62f8a7b111',
  versionNumber: null,
  answerTo: null,
  firstFrame: 1004,
  lastFrame: 1004,
  x: null,
  y: null,
  words: 'The wing flickers.',
  author: 'Ines',
  at: '2026-11-30T10:00:00.000Z',
  resolvedBy: null,
  ...over,
})

beforeEach(() => useAuthor.setState({ name: '' }))

/** Renders a part of the stage with what it is given. @returns What it has ordered, and the store behind it. */
function show(Part: ComponentType, given: Partial<ProofParts> = {}) {
  const orders: NoteOrder[] = []
  const Shown = () => {
    const [isWriting, setWriting] = useState(false)
    const [selected, select] = useState<Snag | null>(given.selected ?? null)
    const parts: ProofParts = {
      status: STATUS,
      notes: [],
      version: null,
      provable: [],
      ofViews: [],
      mendId: null,
      filterBy: () => undefined,
      measure: () => undefined,
      cancel: () => undefined,
      order: (order) => orders.push(order),
      ...given,
      selected,
      select,
      isWriting,
      setWriting,
    }
    return (
      <ProofContext value={parts}>
        <Part />
      </ProofContext>
    )
  }
  return { orders, store: renderOnBench(Shown, sampleRecord(), 1004) }
}

describe('Notes', () => {
  test('one is pinned to a range by name; without words or a name nothing is sent', async () => {
    const { orders } = show(NotesPart)
    expect(screen.getByText(/No notes yet/)).toBeVisible()
    await userEvent.click(screen.getByRole('button', { name: 'Note here' }))
    const form = screen.getByRole('form', { name: 'New note' })
    await userEvent.click(within(form).getByRole('button', { name: 'Pin it' }))
    expect(orders).toEqual([])
    await userEvent.type(within(form).getByLabelText('Your name'), ' Ines ')
    await userEvent.type(within(form).getByLabelText('Note on frame 1004'), 'Look here.')
    const last = within(form).getByLabelText('to frame')
    await userEvent.clear(last)
    await userEvent.type(last, '1009')
    // Without a snag on this frame there is no place to pin it to.
    expect(within(form).getByRole('checkbox')).toBeDisabled()
    await userEvent.click(within(form).getByRole('button', { name: 'Pin it' }))
    expect(orders).toEqual([{ intent: 'note', versionId: null, answerTo: null, firstFrame: 1004, lastFrame: 1009, x: null, y: null, words: 'Look here.', author: 'Ines' }]) // prettier-ignore
    expect(screen.queryByRole('form', { name: 'New note' })).toBeNull()
  })

  test('one is pinned to the place of the selected snag, and to the version that is looked at', async () => {
    useAuthor.setState({ name: 'Ines' })
    const snag: Snag = { mendId: 'wire-1', frame: 1004, reason: 'flicker', x: 12, y: 30, words: 'It flickers.', weight: 2 } // prettier-ignore
    const { orders } = show(NotesPart, { version: VERSION, selected: snag })
    await userEvent.click(screen.getByRole('button', { name: 'Note here' }))
    await userEvent.type(screen.getByLabelText('Note on frame 1004'), 'Here.')
    await userEvent.click(screen.getByRole('checkbox'))
    await userEvent.click(screen.getByRole('button', { name: 'Pin it' }))
    expect(orders).toMatchObject([{ versionId: VERSION.id, x: 12, y: 30 }])
  })

  test('it is answered and resolved by name; those that are resolved come last, and are opened again', async () => {
    const [open, done] = [note(), note({ id: '1b4e28ba-2fa1-41d2-883f-0016d3cca427', words: 'Too soft.', resolvedBy: 'Jo' })] // prettier-ignore
    const answer = note({ id: '6fa459ea-ee8a-4ca4-894e-db77e160355e', answerTo: open.id, words: 'Better?', author: 'Jo' }) // prettier-ignore
    const { orders, store } = show(NotesPart, { notes: [done, answer, open] })
    const cards = screen.getAllByTestId('note')
    expect(cards.map((card) => card.textContent)).toEqual([
      expect.stringContaining('The wing flickers.'),
      expect.stringContaining('Too soft.'),
    ])
    expect(within(cards[0]!).getByText('Better?')).toBeVisible()
    expect(within(cards[0]!).getByRole('button', { name: 'Resolve' })).toBeDisabled()
    await userEvent.click(within(cards[0]!).getByRole('button', { name: 'Answer' }))
    const form = within(cards[0]!).getByRole('form', { name: 'Answer' })
    await userEvent.type(within(form).getByLabelText('Your name'), 'Ines')
    await userEvent.type(within(form).getByRole('textbox', { name: 'Answer' }), 'Good now.{Enter}')
    await userEvent.click(within(cards[0]!).getByRole('button', { name: 'Resolve' }))
    await userEvent.click(within(cards[1]!).getByRole('button', { name: 'Open again' }))
    expect(orders).toMatchObject([
      { intent: 'note', answerTo: open.id, firstFrame: 1004, words: 'Good now.', author: 'Ines' },
      { intent: 'resolve', noteId: open.id, isResolved: true, author: 'Ines' },
      { intent: 'resolve', noteId: done.id, isResolved: false, author: 'Ines' },
    ])
    act(() => store.getState().goTo(1001))
    await userEvent.click(within(cards[0]!).getByRole('button', { name: '1004' }))
    expect(store.getState().frame).toBe(1004)
  })

  test('what a note says is text, whatever stands in it', () => {
    show(NotesPart, { notes: [note({ words: '<img src=x onerror="alert(1)">' })] })
    expect(screen.getByText('<img src=x onerror="alert(1)">')).toBeVisible()
    expect(document.querySelector('img')).toBeNull()
  })
})

describe('Sign-off', () => {
  test('without a version it says what to do; nobody without a name decides', async () => {
    show(ReviewPart)
    expect(screen.getByText('A version is signed off. Make one at Handover.')).toBeVisible()
  })

  test('a version is signed off by name, and what came before is told', async () => {
    const reviews = [
      { state: 'sent-back', author: 'Jo', at: '2026-11-30T11:00:00.000Z' },
      { state: 'to-look-at', author: 'Ines', at: '2026-11-30T10:00:00.000Z' },
    ] as const
    const { orders } = show(ReviewPart, { version: { ...VERSION, reviews } })
    expect(screen.getByTestId('review-state')).toHaveTextContent('Sent back by Jo')
    expect(screen.getByText('Before: to look at (Ines)')).toBeVisible()
    // What it is already is not offered.
    expect(screen.queryByRole('button', { name: 'Send back' })).toBeNull()
    expect(screen.getByRole('button', { name: 'Sign off' })).toBeDisabled()
    await userEvent.type(screen.getByLabelText('Your name'), 'Ines')
    await userEvent.click(screen.getByRole('button', { name: 'Sign off' }))
    expect(orders).toEqual([{ intent: 'review', versionId: VERSION.id, state: 'approved', author: 'Ines' }])
  })
})

describe('Snags', () => {
  // The list shows as many rows as there is room for.
  beforeEach(() => {
    jest.spyOn(Element.prototype, 'clientHeight', 'get').mockReturnValue(300)
    jest.spyOn(Element.prototype, 'clientWidth', 'get').mockReturnValue(260)
  })
  afterEach(() => jest.restoreAllMocks())

  const snag = (frame: number, over: Partial<Snag> = {}): Snag => ({ mendId: 'wire-1', frame, reason: 'line-shows', x: 5, y: 5, words: 'A line is left.', weight: 3, ...over }) // prettier-ignore

  test('before anything was measured, and where nothing stands out, the list says so', () => {
    show(SnagList, { status: { ...STATUS, measured: 0 } })
    expect(screen.getByText(/Measure first/)).toBeVisible()
  })

  test('the selected one unfolds with what to try; each is one step, and taken back', async () => {
    const { store } = show(SnagList, { status: { ...STATUS, snags: [snag(1004), snag(1007)] } })
    const list = screen.getByTestId('snag-list')
    expect(within(list).getAllByRole('button')).toHaveLength(2)
    await userEvent.click(within(list).getByRole('button', { name: /1007/ }))
    const tries = screen.getByRole('region', { name: 'What to try' })
    expect(within(tries).getByText('A line is left.')).toBeVisible()
    const growPx = () => store.getState().records.get('wire-1')!.finish.growPx
    const before = growPx()
    await userEvent.click(within(tries).getByRole('button', { name: 'Widen by 1 px' }))
    expect(growPx()).toBe(before + 1)
    expect(store.getState().stacks.done).toHaveLength(1)
    act(() => store.getState().undo())
    expect(growPx()).toBe(before)
  })

  test('a mend of a view is named, and leads to where it is set right', async () => {
    const ofViews = [{ mendId: 'pole', name: 'Tripod', shotId: 'square-down' }]
    show(SnagList, { ofViews, status: { ...STATUS, snags: [snag(1004, { mendId: 'pole' })] } })
    await userEvent.click(screen.getByRole('button', { name: /1004/ }))
    expect(screen.getByText(/· Tripod/)).toBeVisible()
    expect(screen.getByRole('link')).toHaveAttribute('href', '/shots/square-down/mend?frame=1004&mend=pole')
  })

  test('of a version, which stays as it is, nothing is tried', async () => {
    show(SnagList, { version: VERSION, status: { ...STATUS, snags: [snag(1004)] } })
    await userEvent.click(screen.getByRole('button', { name: /1004/ }))
    expect(screen.getByText(/A version stays as it is/)).toBeVisible()
    expect(screen.queryByRole('button', { name: 'Widen by 1 px' })).toBeNull()
  })
})
