import { isStorable, readBytes, readCommand, readJson } from './requestBody.server'

const asked = (body: BodyInit) =>
  new Request('http://127.0.0.1/cameras', { method: 'POST', body, duplex: 'half' } as RequestInit)

test('an order is what was sent as JSON; anything else is nothing', async () => {
  expect(await readCommand(asked('{"intent":"remove"}'))).toEqual({ intent: 'remove' })
  expect(await readCommand(asked('intent=remove'))).toBeNull()
  expect(await readCommand(asked(''))).toBeNull()
})

test('too much is told in words, and what comes after the limit is not kept, however it is sent', async () => {
  await expect(readCommand(asked(`"${'x'.repeat(9 * 2 ** 20)}"`))).rejects.toMatchObject({ status: 413 })
  let sent = 0
  const endless = new ReadableStream<Uint8Array>({
    pull(controller) {
      sent += 2 ** 20
      controller.enqueue(new Uint8Array(2 ** 20))
    },
  })
  const refused = await readBytes(asked(endless), 2 ** 20).catch((cause: Response) => cause)
  expect(refused).toMatchObject({ status: 413 })
  expect(await (refused as Response).json()).toEqual({ message: expect.stringContaining('at most 1 MB') })
  expect(sent).toBeLessThan(300 * 2 ** 20)
})

test.each([
  ['an empty character', '{"name":"a\\u0000b"}'],
  ['half an emoji', '{"name":"a\\ud83d"}'],
  ['half an emoji as a name', '{"\\ude00":1}'],
  ['lists within lists without end', `${'['.repeat(100_000)}${']'.repeat(100_000)}`],
  ['one deep inside', '{"a":[{"b":["\\u0000"]}]}'],
])('%s is refused in words', async (_name, body) => {
  await expect(readJson(asked(body))).rejects.toMatchObject({ status: 400 })
})

test('whole emoji, escaped backslashes and deep values are none of that', () => {
  expect(isStorable({ name: '😀', path: 'C:\\u0000', list: [1, null, true, [['é']]] })).toBe(true)
})
