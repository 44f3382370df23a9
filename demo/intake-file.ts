import { writeFileSync } from 'node:fs'
import { intakeSheet } from './intake.ts'

/** Writes the old intake log beside the demo, as the desk's spreadsheet saved it. */
writeFileSync(new URL('intake-sheet.csv', import.meta.url), Buffer.from(intakeSheet(), 'latin1'))
