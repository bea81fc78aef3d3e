
import { Session } from 'node:inspector/promises'
import { writeFileSync, mkdirSync } from 'node:fs'
import { readyDigests } from '../core/shot/digest'
import { benchMarks, benchShadows } from './benchLayers'
await readyDigests()
if (process.argv[2] !== 's') await benchMarks()
if (process.argv[2] !== 'm') await benchShadows()
