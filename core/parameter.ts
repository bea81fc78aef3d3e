import type { z } from 'zod'

/**
 * What people read about one setting. It rides on the setting's schema, so that the form, the docs
 * and the validation come from one declaration.
 */
export type ParameterLabel = {
  readonly title: string
  readonly help: string
  /** Empty where the value has none. */
  readonly unit: string
  /** Smallest step of a slider or an arrow key. */
  readonly step?: number
  /** Words for the values of a choice. */
  readonly choices?: Readonly<Record<string, string>>
  /** The number of a frame: it can be set to the one that is looked at. */
  readonly isFrame?: boolean
  /** The picture of a mark: it can be worked out, brought in and saved. */
  readonly isMark?: boolean
  /** Tones of a skin: they are learnt from the picture. */
  readonly areTones?: boolean
  /** Shown only while another parameter has this value. */
  readonly shownWhen?: { readonly parameter: string; readonly is: string }
}

/** A schema with its label. */
export const labelled = <T extends z.ZodType>(schema: T, label: ParameterLabel): T => schema.meta(label)
