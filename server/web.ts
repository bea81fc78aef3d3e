/** The web server: guards, static files, then React Router. `--dev` serves from source. */
import { createServer } from 'node:http'
import { join } from 'node:path'
import { pathToFileURL } from 'node:url'
import { once } from 'node:events'
import { createRequestHandler } from '@react-router/express'
import compression from 'compression'
import express from 'express'
import type { ServerBuild } from 'react-router'
import { readConfig } from './config.server'
import { requireSignIn } from './access/requireSignIn.server'
import { database } from './db/client.server'
import { requireCleanAddress, requireKnownHost, requireSameOrigin, requireShortForms } from './guard'
import { innerHeaders, isolationHeaders, policyHeaders, reportHeaders } from './headers.server'
import { foldersIn } from './context.server'
import { startLifeSign } from './lifeSign.server'
import { log } from './log.server'
import { keepResultsPruned } from './results/pruneResults.server'
import { requireDatabase } from './requireDatabase.server'
import { ROOT } from './root.server'

const config = readConfig()
const isDev = process.argv.includes('--dev')
const app = express()
const server = createServer(app)

app.disable('x-powered-by')
const { publicUrl } = config
if (publicUrl) {
  // What people type is a setting, and not what somebody says in a header.
  app.set('trust proxy', 'loopback')
  app.use((request, _response, next) => {
    request.headers['x-forwarded-proto'] = publicUrl.protocol.slice(0, -1)
    request.headers['x-forwarded-host'] = publicUrl.host
    next()
  })
}
app.use(innerHeaders, isolationHeaders)
if (!isDev) app.use(policyHeaders)
app.use(requireCleanAddress, requireKnownHost(config), requireSameOrigin, requireShortForms)
if (!isDev) {
  // Frames are noise to a compressor and news must not wait for its buffer.
  const isWorthIt: compression.CompressionFilter = (request, response) =>
    !/octet-stream|event-stream|image|video|zip/.test(String(response.getHeader('Content-Type'))) &&
    compression.filter(request, response)
  app.use(compression({ filter: isWorthIt }))
  // The same for everybody, and there while the database is away.
  app.use('/assets', express.static(join(ROOT, 'build/client/assets'), { immutable: true, maxAge: '1y' }))
  app.use(express.static(join(ROOT, 'build/client'), { maxAge: '1h' }))
}
app.use(
  requireDatabase(),
  requireSignIn(config, () => database().db),
)

if (isDev) {
  const vite = await (
    await import('vite')
  ).createServer({ server: { middlewareMode: true, hmr: { server } }, appType: 'custom' })
  app.use(vite.middlewares)
  app.use(
    createRequestHandler({
      build: () => vite.ssrLoadModule('virtual:react-router/server-build') as Promise<ServerBuild>,
      mode: 'development',
    }),
  )
} else {
  app.use(/^\/versions\/[^/]+\/report\/html$/, reportHeaders)
  const build = (await import(pathToFileURL(join(ROOT, 'build/server/index.js')).href)) as ServerBuild
  app.use(createRequestHandler({ build, mode: 'production' }))
}

// Pages add results too; where no worker runs nobody else would prune them.
const stopPruning = keepResultsPruned(foldersIn(config.dataDir).results)

server.requestTimeout = 0 // uploads may take hours; each is limited by its announced size
server.listen(config.port, config.host)
await once(server, 'listening')
startLifeSign()
log.info({ address: `http://${config.host}:${config.port}` }, 'web server ready')

function stop(): void {
  stopPruning()
  server.close(() => process.exit(0))
  server.closeAllConnections() // news streams never end by themselves
}
process.on('SIGTERM', stop)
process.on('SIGINT', stop)
