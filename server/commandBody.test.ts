import { readCommand } from './commandBody.server'

const asked = (body: string, headers = {}) =>
  new Request('http://127.0.0.1/cameras', { method: 'POST', body, headers })

test('an order is what was sent as JSON; anything else, and too much, is nothing', async () => {
  expect(await readCommand(asked('{"intent":"remove"}'))).toEqual({ intent: 'remove' })
  expect(await readCommand(asked('intent=remove'))).toBeNull()
  expect(await readCommand(asked(''))).toBeNull()
  expect(await readCommand(asked(`"${'x'.repeat(9 * 2 ** 20)}"`))).toBeNull()
  expect(await readCommand(asked('{}', { 'content-length': String(2 ** 30) }))).toBeNull()
})
