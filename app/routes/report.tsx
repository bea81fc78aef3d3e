import { renderToStaticMarkup } from 'react-dom/server'
import { z } from 'zod'
import { proofCsv } from '../../core/proof/proofCsv'
import { versionTitle } from '../../core/versionTitle'
import { serverContext } from '../../server/context.server'
import { reportOf } from '../../server/report.server'
import { VersionReport } from '../../workbench/proof/VersionReport'
import type { Route } from './+types/report'

/** The report of a version, as a page that stands by itself or as a table. */
export async function loader({ params }: Route.LoaderArgs) {
  const id = z.uuid().safeParse(params.versionId)
  const report = id.success ? await reportOf(serverContext(), id.data) : null
  if (!report) throw new Response('There is no such version.', { status: 404 })
  const isTable = params.kind === 'csv'
  if (!isTable && params.kind !== 'html') throw new Response('A report is html or csv.', { status: 404 })
  const names = new Map(report.document.mends.map(({ id: mendId, name }) => [mendId, name]))
  const body = isTable
    ? proofCsv(report.proofs, report.digests, (mendId) => names.get(mendId) ?? mendId)
    : `<!doctype html>${renderToStaticMarkup(<VersionReport {...report} />)}`
  const name = `${report.shotName.replace(/[^A-Za-z0-9._-]+/g, '_')}_${versionTitle(report.version.number)}`
  return new Response(body, {
    headers: {
      'Content-Type': isTable ? 'text/csv; charset=utf-8' : 'text/html; charset=utf-8',
      'Content-Disposition': `${isTable ? 'attachment' : 'inline'}; filename="${name}.${params.kind}"`,
    },
  })
}
