import type { MendEdit } from '../../core/document/edits'
import { SaveQueue, type SaveQueueOptions, type SaveState } from './saveQueue'

const edit = (label: string): MendEdit => ({ label, changes: [], tracks: [] })

const step = (label: string) =>
  ({ editId: `id-${label}`, role: 'do', targetId: null, edit: edit(label) }) as const

/** A server in the hands of the test: each answer is used once. */
function queueWith(answers: (Response | Error)[], over: Partial<SaveQueueOptions> = {}) {
  const sent: { editId: string; baseRevision: number; edit: MendEdit }[] = []
  const states: SaveState[] = []
  const refused: string[] = []
  const queue = new SaveQueue({
    url: '/edits',
    revision: 5,
    onState: (state) => states.push(state),
    onNewer: () => true,
    onRefused: (edits, message) => refused.push(`${edits.map((one) => one.label).join(', ')}: ${message}`),
    wait: async () => undefined,
    fetch: (async (_url: string, init: { body: string }) => {
      sent.push(JSON.parse(init.body) as (typeof sent)[number])
      const answer = answers.shift()!
      if (answer instanceof Error) throw answer
      return answer
    }) as unknown as typeof fetch,
    ...over,
  })
  return { queue, sent, states, refused }
}

const stored = (revision: number) => Response.json({ ok: true, revision })
const settle = () => new Promise((resolve) => setTimeout(resolve, 5))

test('edits go one after the other, each on the revision before', async () => {
  const { queue, sent, states } = queueWith([stored(6), stored(7)])
  queue.add(step('a'))
  queue.add(step('b'))
  expect(queue.hasPending).toBe(true)
  await settle()
  expect(sent.map((one) => [one.edit.label, one.baseRevision])).toEqual([
    ['a', 5],
    ['b', 6],
  ])
  expect(states.at(-1)).toBe('saved')
  expect(queue.hasPending).toBe(false)
})

test('an edit rests a little before it is sent, but not when the page is being left', async () => {
  const { queue, sent, states } = queueWith([stored(6), stored(7)], {
    wait: () => new Promise(() => undefined),
  })
  queue.add(step('a'))
  await settle()
  expect([sent.length, states.at(-1), queue.hasPending]).toEqual([0, 'saving', true])
  queue.hurry()
  await settle()
  expect(sent.map(({ edit: { label } }) => label)).toEqual(['a'])
  expect(states.at(-1)).toBe('saved')
})

test('who waits until all is saved is told once it is, and what rests is sent for it; at rest at once', async () => {
  const { queue, sent } = queueWith([stored(6), stored(7)], { wait: () => new Promise(() => undefined) })
  await queue.whenSaved()
  queue.add(step('a'))
  queue.add(step('b'))
  await queue.whenSaved()
  expect([sent.length, queue.hasPending, queue.revision]).toEqual([2, false, 7])
})

test('a broken connection is tried again under the same id', async () => {
  const { queue, sent, states } = queueWith([new Error('gone'), new Response('', { status: 502 }), stored(6)])
  queue.add(step('a'))
  await settle()
  expect(new Set(sent.map((one) => one.editId))).toEqual(new Set(['id-a']))
  expect(sent).toHaveLength(3)
  expect(states).toContain('offline')
  expect(states.at(-1)).toBe('saved')
})

test('when others were faster, ours follow on theirs', async () => {
  const newer = [{ revision: 6, ...step('theirs') }]
  const seen: unknown[] = []
  const { queue, sent } = queueWith([Response.json({ revision: 6, newer }, { status: 409 }), stored(7)], {
    onNewer: (entries, ours) => {
      seen.push(
        entries,
        ours.map((one) => one.label),
      )
      return true
    },
  })
  queue.add(step('ours'))
  await settle()
  expect(seen).toEqual([newer, ['ours']])
  expect(sent.map((one) => one.baseRevision)).toEqual([5, 6])
})

test('what cannot be stored is said and dropped with all that stands on it', async () => {
  const { queue, sent, refused } = queueWith([
    Response.json({ message: 'It does not fit.' }, { status: 422 }),
  ])
  queue.add(step('a'))
  queue.add(step('b'))
  await settle()
  expect(refused).toEqual(['a, b: It does not fit.'])
  expect(sent).toHaveLength(1)
  expect(queue.hasPending).toBe(false)
})

test('an edit over which the server fails each time is set aside with what stands on it; later ones go on', async () => {
  const failures = Array.from({ length: 15 }, () => new Response('', { status: 500 }))
  const { queue, sent, refused, states } = queueWith([...failures, stored(6)])
  queue.add(step('a'))
  queue.add(step('b'))
  await settle()
  expect(refused).toEqual(['a, b: The server answered 500.'])
  queue.add(step('c'))
  await settle()
  expect(sent.at(-1)!.edit.label).toBe('c')
  expect(states.at(-1)).toBe('saved')
})

test('a server that is away, however long, loses nothing', async () => {
  const away = Array.from({ length: 40 }, (_, i) =>
    i % 2 ? new Error('gone') : new Response('', { status: 503 }),
  )
  const { queue, refused, states } = queueWith([...away, stored(6)])
  queue.add(step('a'))
  await settle()
  expect([refused, states.at(-1), queue.hasPending]).toEqual([[], 'saved', false])
})
