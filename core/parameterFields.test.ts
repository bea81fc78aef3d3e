import { z } from 'zod'
import { fillMethods } from './fill/registry'
import { finishSchema } from './document/mend'
import { labelled } from './parameter'
import { parameterFields } from './parameterFields'

test('a form is read from its schema', () => {
  const schema = z.strictObject({
    reachPx: labelled(z.number().min(1).max(64).default(6), {
      title: 'Reach',
      help: 'How far.',
      unit: 'px',
      step: 0.5,
    }),
    side: labelled(z.enum(['left', 'right']).default('left'), {
      title: 'Side',
      help: 'Which.',
      unit: '',
      choices: { left: 'Left', right: 'Right' },
    }),
  })
  expect(parameterFields(schema)).toMatchObject([
    { name: 'reachPx', kind: 'number', title: 'Reach', unit: 'px', min: 1, max: 64, step: 0.5, default: 6 },
    {
      name: 'side',
      kind: 'choice',
      values: ['left', 'right'],
      choices: { left: 'Left', right: 'Right' },
      default: 'left',
    },
  ])
})

test('a parameter without what a form needs is refused', () => {
  expect(() => parameterFields(z.strictObject({ a: z.number() }))).toThrow('needs a title')
  expect(() =>
    parameterFields(z.strictObject({ a: labelled(z.number(), { title: 'A', help: 'A.', unit: '' }) })),
  ).toThrow('needs a range')
})

test.each([
  ...fillMethods.map((method) => [method.title, method.params] as const),
  ['Finish', finishSchema] as const,
])('%s has a whole form', (_title, schema) => {
  for (const field of parameterFields(schema)) {
    expect(field.help).toMatch(/\.$/)
    if (field.kind === 'number') expect(field.default >= field.min && field.default <= field.max).toBe(true)
    if (field.kind === 'choice')
      expect(Object.keys(field.choices ?? {}).sort()).toEqual([...field.values].sort())
  }
})
