/** A fill as a document holds it. */
import { z } from 'zod'
import { fillMethods, findFill } from '../fill/registry'

/** A fill and its settings; the settings are checked by the fill's own schema. */
export const fillSettingsSchema = z
  .strictObject({
    methodId: z.string(),
    methodVersion: z.int().min(1),
    params: z.record(z.string(), z.unknown()),
  })
  .superRefine((fill, context) => {
    const method = findFill(fill.methodId)
    if (!method) {
      const known = fillMethods.map((one) => one.id).join(', ')
      context.addIssue({
        code: 'custom',
        path: ['methodId'],
        message: `no fill is called "${fill.methodId}"; there is: ${known}`,
      })
      return
    }
    if (fill.methodVersion > method.version) {
      context.addIssue({
        code: 'custom',
        path: ['methodVersion'],
        message: `"${fill.methodId}" is at version ${method.version} here`,
      })
    }
    const result = method.params.safeParse(fill.params)
    for (const issue of result.error?.issues ?? []) {
      context.addIssue({ code: 'custom', path: ['params', ...issue.path], message: issue.message })
    }
  })

export type FillSettings = z.output<typeof fillSettingsSchema>
