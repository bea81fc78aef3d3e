import { readOrder } from './orderBody.server'

const asked = (body: string, headers = {}) =>
  new Request('http://127.0.0.1/cameras', { method: 'POST', body, headers })

test('an order is what was sent as JSON; anything else, and too much, is nothing', async () => {
  expect(await readOrder(asked('{"intent":"remove"}'))).toEqual({ intent: 'remove' })
  expect(await readOrder(asked('intent=remove'))).toBeNull()
  expect(await readOrder(asked(''))).toBeNull()
  expect(await readOrder(asked(`"${'x'.repeat(9 * 2 ** 20)}"`))).toBeNull()
  expect(await readOrder(asked('{}', { 'content-length': String(2 ** 30) }))).toBeNull()
})
