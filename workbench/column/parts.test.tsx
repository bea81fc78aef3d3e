/** @jest-environment <rootDir>/jest.browser.mjs */
import '@testing-library/jest-dom'
import { act, screen, waitFor } from '@testing-library/react'
import userEvent from '@testing-library/user-event'
import { setFill } from '../../core/document/commands'
import type { MendRecord } from '../../core/document/mend'
import { fillOf, sampleEllipse, sampleRecord } from '../../tests/fixtures/sampleMend'
import { renderOnBench } from '../../tests/fixtures/renderOnBench'
import type { BenchStore } from '../store/bench'
import { AreaPart } from './AreaPart'
import { FillPart } from './FillPart'
import { FinishPart } from './FinishPart'
import { MotionPart } from './MotionPart'
import { SpanPart } from './SpanPart'

const mendOf = (store: BenchStore): MendRecord => store.getState().records.get('wire-1')!

/** Types a number into a field and leaves it. */
async function type(label: string, text: string): Promise<void> {
  const field = screen.getByRole('textbox', { name: label })
  await userEvent.clear(field)
  await userEvent.type(field, `${text}{Enter}`)
}

test('Area: a typed width goes to all points, as one step that undo takes back', async () => {
  const store = renderOnBench(AreaPart, sampleRecord())
  await type('Width', '9')
  const widths = () =>
    (mendOf(store).areas[0] as { keys: { points: { widthPx: number }[] }[] }).keys[0]!.points
  expect(widths().map(({ widthPx }) => widthPx)).toEqual([9, 9])
  act(() => store.getState().undo())
  expect(widths().map(({ widthPx }) => widthPx)).toEqual([6, 6])
})

test('Area: what is wrong with a number is said, and nothing changes', async () => {
  const store = renderOnBench(AreaPart, sampleRecord())
  const field = screen.getByRole('textbox', { name: 'Width' })
  expect(field).toBeValid()
  await userEvent.clear(field)
  await userEvent.type(field, '900')
  expect(field).toBeInvalid()
  await userEvent.type(field, '{Enter}')
  expect(field).toHaveValue('6.0')
  expect(store.getState().stacks.done).toHaveLength(0)
})

describe('Motion', () => {
  const object = sampleRecord({ kind: 'object', areas: [sampleEllipse()], fill: fillOf('clean-plate') })

  test('an object outlined on one frame says what is missing', () => {
    renderOnBench(MotionPart, object)
    expect(screen.getByRole('note')).toHaveTextContent('Outlined on 1001 only')
  })

  test('carried along, it follows a track that begins on that frame, as one step', async () => {
    const store = renderOnBench(MotionPart, object, 1010)
    await userEvent.click(screen.getByRole('button', { name: 'Carry it along' }))
    const [track] = store.getState().tracks.values()
    expect(track).toMatchObject({ kind: 'spread' })
    expect((mendOf(store).areas[0] as { follow: { trackId: string } }).follow.trackId).toBe(track!.id)
    expect(store.getState().frame).toBe(1001)
    expect(screen.queryByRole('note')).toBeNull()
    act(() => store.getState().undo())
    expect(store.getState().tracks.size).toBe(0)
  })

  test('keyed on several frames, it offers to follow the thing, once the scene’s motion is known', () => {
    const [key] = sampleEllipse().keys
    const keys = [key!, { ...key!, frame: 1013, x: 90 }]
    renderOnBench(MotionPart, sampleRecord({ ...object, areas: [sampleEllipse({ keys: keys })] }))
    expect(screen.getByRole('note')).toHaveTextContent('Between its keys the outline goes evenly')
    expect(screen.getByRole('button', { name: 'Follow the thing' })).toBeDisabled()
  })

  test('a wire says nothing of the kind', () => {
    renderOnBench(MotionPart, sampleRecord())
    expect(screen.queryByRole('note')).toBeNull()
    expect(screen.getByRole('button', { name: 'Cling' })).toBeEnabled()
  })
})

test('Fill: another method starts as its kind starts with it; chosen again, it is as it was', async () => {
  const store = renderOnBench(FillPart, sampleRecord())
  await userEvent.click(screen.getByRole('button', { name: /^Method: Across/ }))
  await userEvent.click(await screen.findByRole('menuitemradio', { name: /^Clean plate/ }))
  expect(mendOf(store).fill).toEqual({
    ...fillOf('clean-plate'),
    params: { ...fillOf('clean-plate').params, unseen: 'across' },
  })
  await type('Before', '12')
  expect(mendOf(store).fill.params).toMatchObject({ before: 12, after: 24 })
  await userEvent.click(screen.getByRole('button', { name: /^Method: Clean plate/ }))
  await userEvent.click(await screen.findByRole('menuitemradio', { name: /^Near/ }))
  expect(mendOf(store).fill).toEqual(fillOf('near'))
  await userEvent.click(screen.getByRole('button', { name: /^Method: Near/ }))
  await userEvent.click(await screen.findByRole('menuitemradio', { name: /^Clean plate/ }))
  expect(mendOf(store).fill.params).toMatchObject({ before: 12, unseen: 'across' })
})

test('Finish: a setting changes, and colours are asked about for copies only', async () => {
  const store = renderOnBench(FinishPart, sampleRecord())
  expect(screen.queryByRole('textbox', { name: 'Agree' })).toBeNull()
  await type('Strength', '0.5')
  expect(mendOf(store).finish.strength).toBe(0.5)
  act(() => store.getState().commit(setFill(mendOf(store), fillOf('clone'), 'Clone')))
  expect(screen.getByRole('textbox', { name: 'Agree' })).toHaveValue('1.00')
})

test('Span: frames are typed or taken from the playhead', async () => {
  const store = renderOnBench(SpanPart, sampleRecord(), 1020)
  await type('First frame', '1005')
  await userEvent.click(screen.getByRole('button', { name: 'End at 1020' }))
  expect(mendOf(store).span).toMatchObject({ firstFrame: 1005, lastFrame: 1020 })
})

test('Fill: a number that rounds to nothing shows no sign', () => {
  const keys = [{ frame: 1001, dx: 90, dy: 0, turnDeg: -1e-9, scale: 1 }]
  const source = { keys, interpolation: 'smooth' as const, follow: null }
  renderOnBench(
    FillPart,
    sampleRecord({ kind: 'patch', areas: [sampleEllipse()], fill: fillOf('heal'), source }),
  )
  expect(screen.getByRole('textbox', { name: 'Turn' })).toHaveValue('0.0')
})

describe('Suggested places', () => {
  const patch = sampleRecord({ kind: 'patch', areas: [sampleEllipse()], fill: fillOf('heal') })
  const place = (dx: number, difference: number) => ({
    ...{ dx, dy: 0, turnDeg: 0, scale: 1, difference },
    picture: { width: 2, height: 1, data: new Uint8ClampedArray(8) },
  })
  beforeEach(() => jest.spyOn(HTMLCanvasElement.prototype, 'getContext').mockReturnValue(null))

  test('each is a picture with its place in words; a click takes it, arrows go along the row', async () => {
    const store = renderOnBench(FillPart, patch)
    const area = mendOf(store).areas[0]!
    act(() =>
      store
        .getState()
        .setSuggested({ mendId: patch.id, area, sources: [place(-150, 0.02), place(90, 0.03)] }),
    )
    await userEvent.click(screen.getByRole('radio', { name: 'Place 2 of 2, 90 px right' }))
    expect(mendOf(store).source!.keys[0]).toMatchObject({ dx: 90, dy: 0 })
    expect(screen.getByRole('radio', { name: /^Place 2/ })).toBeChecked()
    // A key is down for longer than the row takes to follow it.
    await userEvent.keyboard('{ArrowLeft>}')
    await waitFor(() => expect(mendOf(store).source!.keys[0]).toMatchObject({ dx: -150 }))
    await userEvent.keyboard('{/ArrowLeft}')
    act(() => store.getState().undo())
    expect(mendOf(store).source!.keys[0]).toMatchObject({ dx: 90 })
    expect(screen.getByRole('radio', { name: /^Place 2/ })).toBeChecked() // it shows what the mend copies from
  })

  test('none is checked once the source was moved by hand, and coming to the row takes none', async () => {
    const store = renderOnBench(FillPart, patch)
    const area = mendOf(store).areas[0]!
    act(() =>
      store.getState().setSuggested({ mendId: patch.id, area, sources: [place(9, 0.1), place(90, 0.2)] }),
    )
    act(() => screen.getByRole('radio', { name: /^Place 1/ }).focus())
    expect(mendOf(store).source).toBeNull()
    expect(screen.queryByRole('radio', { checked: true, name: /^Place/ })).toBeNull()
  })

  test('once the area has moved they are gone: they were for somewhere else', () => {
    const store = renderOnBench(FillPart, patch)
    act(() =>
      store.getState().setSuggested({ mendId: patch.id, area: sampleEllipse(), sources: [place(9, 0.1)] }),
    )
    expect(screen.queryByRole('radio', { name: /^Place/ })).toBeNull()
  })
})

test('Fill: a mark fades by a pin on one frame and another value on a later one; each is one step', async () => {
  const store = renderOnBench(FillPart, sampleRecord({ kind: 'mark', fill: fillOf('unmix') }))
  const fades = () => mendOf(store).fill.params['fades']
  await userEvent.click(screen.getByRole('button', { name: 'Key fade at 1001' }))
  act(() => store.getState().goTo(1011))
  await type('Fade', '0.4')
  expect(fades()).toEqual([
    { frame: 0, level: 1 },
    { frame: 1001, level: 1 },
    { frame: 1011, level: 0.4 },
  ])
  act(() => store.getState().goTo(1006))
  expect(screen.getByRole('textbox', { name: 'Fade' })).toHaveValue('0.70')
  act(() => store.getState().goTo(1011))
  await userEvent.click(screen.getByRole('button', { name: 'Remove the key of fade at 1011' }))
  expect(fades()).toHaveLength(2)
  for (let steps = 0; steps < 3; steps++) act(() => store.getState().undo())
  expect(fades()).toEqual([{ frame: 0, level: 1 }])
})

test('Fill: the radius of blotches is set as a share of the face, as one step that undo takes back', async () => {
  const face = sampleEllipse({ keys: [{ frame: 1001, x: 50, y: 60, radiusXPx: 40, radiusYPx: 50, turnDeg: 0 }] }) // prettier-ignore
  const store = renderOnBench(
    FillPart,
    sampleRecord({ kind: 'skin', areas: [face], fill: fillOf('even-skin') }),
  )
  const radius = () => mendOf(store).fill.params['radiusPx'] as number
  await type('Radius share', '10')
  expect(radius()).toBeCloseTo(10, 0)
  act(() => store.getState().undo())
  expect(radius()).toBe(24)
})
