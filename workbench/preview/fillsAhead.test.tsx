/** @jest-environment <rootDir>/jest.browser.mjs */
import { act, renderHook } from '@testing-library/react'
import { samplePlate } from '../../tests/fixtures/sampleBench'
import { createBench } from '../store/bench'
import { brushTool } from '../tools/tool'
import { useFillsAhead } from './useFillsAhead'

test('nothing is filled ahead while one paints, nor right after; the next stroke begins the rest anew', () => {
  jest.useFakeTimers()
  const ignore = () => undefined
  const store = createBench({ plate: samplePlate, records: [], tracks: [], history: [], frame: 1001, selectedId: null, save: ignore, onBlocked: ignore }) // prettier-ignore
  const { result, unmount } = renderHook(() => useFillsAhead(store))
  const paint = (isPainting: boolean) => act(() => store.getState().setTool({ ...brushTool, points: isPainting ? [{ x: 1, y: 1, pressure: 1 }] : [] })) // prettier-ignore
  const pass = (ms: number) => act(() => jest.advanceTimersByTime(ms))
  expect(result.current).toBe(true)
  paint(false)
  expect(result.current).toBe(true)
  paint(true)
  pass(5000)
  expect(result.current).toBe(false)
  paint(false)
  pass(900)
  expect(result.current).toBe(false)
  paint(true)
  paint(false)
  pass(900)
  expect(result.current).toBe(false)
  pass(200)
  expect(result.current).toBe(true)
  unmount()
  jest.useRealTimers()
})
