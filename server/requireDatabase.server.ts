/** While the database is away, pages say so and come back by themselves; requests for data are told to try again. */
import type { RequestHandler } from 'express'
import { answers, database } from './db/client.server'

/** So long an answer holds: the database is not asked before every frame. */
const HOLDS_MS = 1000

const WORDS =
  'The database does not answer; it is started again by itself. What was saved is safe. This page comes back when it does.'

export function requireDatabase(): RequestHandler {
  let wellUntil = 0
  return async (request, response, next) => {
    // Whoever watches over us is told by the page itself.
    if (request.path === '/health' || Date.now() < wellUntil) return next()
    if (await answers(database())) {
      wellUntil = Date.now() + HOLDS_MS
      return next()
    }
    response.status(503).set({ 'Retry-After': '2', 'Cache-Control': 'no-store' })
    if (request.accepts('html', 'json') === 'html' && request.method === 'GET')
      response.set('Refresh', '2').send(plainPage('Fillagrant waits for its database', WORDS))
    else response.json({ message: WORDS })
  }
}

/** A page of words alone, for when nothing else can be shown. */
const plainPage = (title: string, words: string): string =>
  `<!doctype html><html lang="en"><meta charset="utf-8"><title>${title}</title><body bgcolor="#262626" text="#ececec"><h1>${title}</h1><p>${words}</p></body></html>`
