import { existsSync } from 'node:fs'

/** Debian's headless shell draws no window that nobody sees; where it is not packaged, Chromium itself. */
const SHELL = '/usr/bin/chromium-headless-shell'
export const BROWSER_PATH = existsSync(SHELL) ? SHELL : '/usr/bin/chromium'
