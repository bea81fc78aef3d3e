import { useMemo } from 'react'
import type { z } from 'zod'
import { parameterFields } from '../../core/parameterFields'
import { ChoiceField } from './ChoiceField'
import { NumberField } from './NumberField'

export interface SchemaFormProps {
  readonly schema: z.ZodObject
  readonly values: Readonly<Record<string, unknown>>
  onChange(name: string, value: unknown, title: string): void
  onEnd(): void
}

/** A form made from a settings schema: a new parameter appears here by being declared. */
export function SchemaForm({ schema, values, onChange, onEnd }: SchemaFormProps) {
  const fields = useMemo(() => parameterFields(schema), [schema])
  return fields
    .filter(({ shownWhen }) => !shownWhen || values[shownWhen.parameter] === shownWhen.is)
    .map((field) =>
      field.kind === 'choice' ? (
        <ChoiceField
          key={field.name}
          title={field.title}
          help={field.help}
          value={(values[field.name] as string | undefined) ?? field.default}
          choices={field.choices ?? Object.fromEntries(field.values.map((value) => [value, value]))}
          onChange={(value) => {
            onChange(field.name, value, field.title)
            onEnd()
          }}
        />
      ) : (
        <NumberField
          key={field.name}
          {...field}
          value={Number(values[field.name] ?? field.default)}
          onChange={(value) => onChange(field.name, value, field.title)}
          onEnd={onEnd}
        />
      ),
    )
}
