import { useMemo } from 'react'
import type { z } from 'zod'
import type { CurveKey } from '../../core/curveKeys'
import type { SetTone } from '../../core/skin/tonesSet'
import type { StepKey } from '../../core/stepKeys'
import { parameterFields, type ParameterField } from '../../core/parameterFields'
import { ChoiceField } from './ChoiceField'
import { ColourField } from './ColourField'
import { CornersField } from './CornersField'
import { CurveField } from './CurveField'
import { FrameField } from './FrameField'
import { MarkField } from './MarkField'
import { StepField } from './StepField'
import { NumberField } from './NumberField'
import { StillField } from './StillField'
import { TonesField } from './TonesField'

export interface SchemaFormProps {
  readonly schema: z.ZodObject
  readonly values: Readonly<Record<string, unknown>>
  /** Only these parameters, where not all are wanted. */
  readonly names?: readonly string[]
  onChange(name: string, value: unknown, title: string): void
  onEnd(): void
}

/** A form made from a settings schema: a new parameter appears here by being declared. */
export function SchemaForm({ schema, values, names, onChange, onEnd }: SchemaFormProps) {
  const fields = useMemo(() => parameterFields(schema), [schema])
  return fields
    .filter(({ name }) => !names || names.includes(name))
    .filter(({ shownWhen }) => !shownWhen || values[shownWhen.parameter] === shownWhen.is)
    .map((field) => (
      <Field
        key={field.name}
        field={field}
        value={values[field.name] ?? field.default}
        values={values}
        onChange={onChange}
        onEnd={onEnd}
      />
    ))
}

/** Where a fill's own mark lies. */
const markPlaceIn = ({ leftPx, topPx }: SchemaFormProps['values']) => ({
  leftPx: Number(leftPx ?? 0),
  topPx: Number(topPx ?? 0),
})

interface FieldProps extends Pick<SchemaFormProps, 'values' | 'onChange' | 'onEnd'> {
  readonly field: ParameterField
  readonly value: unknown
}

function Field({ field, value, values, onChange, onEnd }: FieldProps) {
  const { title, help } = field
  const keep = (next: string) => {
    onChange(field.name, next, title)
    onEnd()
  }
  switch (field.kind) {
    case 'choice': {
      const choices = field.choices ?? Object.fromEntries(field.values.map((one) => [one, one]))
      return <ChoiceField title={title} help={help} value={String(value)} choices={choices} onChange={keep} />
    }
    case 'colour':
      return (
        <ColourField
          title={title}
          help={help}
          value={String(value)}
          onChange={(next) => onChange(field.name, next, title)}
          onEnd={onEnd}
        />
      )
    case 'still':
      return <StillField title={title} help={help} value={String(value)} onChange={keep} />
    case 'mark':
      return (
        <MarkField title={title} help={help} value={String(value)} at={markPlaceIn(values)} onChange={keep} />
      )
    case 'tones':
      return (
        <TonesField
          title={title}
          help={help}
          tones={value as SetTone[]}
          onChange={(next) => {
            onChange(field.name, next, title)
            onEnd()
          }}
        />
      )
    case 'held':
      return (
        <StepField
          {...field}
          keys={value as StepKey[]}
          onChange={(next) => onChange(field.name, next, title)}
          onEnd={onEnd}
        />
      )
    case 'curve':
      return (
        <CurveField
          {...field}
          keys={value as CurveKey[]}
          onChange={(next) => onChange(field.name, next, title)}
          onEnd={onEnd}
        />
      )
    case 'frame':
      return (
        <FrameField
          title={title}
          help={help}
          value={Number(value)}
          onChange={(next) => onChange(field.name, next, title)}
          onEnd={onEnd}
        />
      )
    case 'corners':
      return (
        <CornersField
          {...field}
          corners={value as number[]}
          onChange={(next) => onChange(field.name, next, title)}
          onEnd={onEnd}
        />
      )
    case 'number':
      return (
        <NumberField
          {...field}
          value={Number(value)}
          onChange={(next) => onChange(field.name, next, title)}
          onEnd={onEnd}
        />
      )
  }
}
