/** Writes what is generated into docs/: the JSON Schemas of the files that are read and written, and the table of fills. */
import { readFileSync, writeFileSync } from 'node:fs'
import { z } from 'zod'
import { fillMethods } from '../core/fill/registry'
import { documentSchema } from '../core/document/document'
import { finishSchema } from '../core/document/mend'
import { parameterFields, type ParameterField } from '../core/parameterFields'
import { surveySchema } from '../core/survey/finds'
import { sensorMapSchema } from '../core/survey/sensorMap'

const docs = new URL('../docs/', import.meta.url)

const schemas = {
  'mend-format': documentSchema,
  'survey-format': surveySchema,
  'sensor-map-format': sensorMapSchema,
}
for (const [name, schema] of Object.entries(schemas)) {
  writeFileSync(
    new URL(`${name}.schema.json`, docs),
    `${JSON.stringify(z.toJSONSchema(schema, { io: 'input' }), null, 2)}\n`,
  )
}

function range(field: ParameterField): string {
  switch (field.kind) {
    case 'choice':
      return field.values.map((value) => `\`${value}\``).join(', ')
    case 'colour':
      return '`#rrggbb`'
    case 'still':
    case 'mark':
      return 'a name'
    case 'frame':
      return 'a frame number'
    case 'held':
      return `keys: \`{ frame, value }\`, each holds until the next; ${field.min} to ${field.max}${field.unit ? ` ${field.unit}` : ''}`
    case 'curve':
      return `keys: \`{ frame, level }\`, straight between them; ${field.min} to ${field.max}${field.unit ? ` ${field.unit}` : ''}`
    case 'corners':
      return 'x, y of four corners round from the upper left; none: the plate’s own'
    case 'tones':
      return 'tones learnt, added, taken away'
    case 'number':
      return `${field.min} to ${field.max}${field.unit ? ` ${field.unit}` : ''}`
  }
}
const table = (schema: z.ZodObject) =>
  [
    '| name | what | values | default |',
    '| --- | --- | --- | --- |',
    ...parameterFields(schema).map(
      (field) =>
        `| \`${field.name}\` | ${field.help} | ${range(field)} | ${typeof field.default === 'object' ? JSON.stringify(field.default) : field.default} |`,
    ),
  ].join('\n')

const fills = fillMethods.map(
  ({ id, version, title, summary, source, params }) =>
    `### ${title} (\`${id}\`, version ${version})\n\n${summary}\n\nSource: ${source}\n\n${Object.keys(params.shape).length > 0 ? table(params) : 'No parameters.'}`,
)
const generated = `<!-- generated: npm run build:docs -->\n\n${fills.join('\n\n')}\n\n### Finish\n\n${table(finishSchema)}\n\n<!-- /generated -->`
const page = new URL('mend-format.md', docs)
writeFileSync(
  page,
  readFileSync(page, 'utf8').replace(/<!-- generated[\s\S]*<!-- \/generated -->/, () => generated),
)
