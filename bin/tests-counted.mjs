// tests-counted.mjs REPORT FAILURES: reads a report of Vitest, prints how many tests passed and failed, and adds to the
// file FAILURES what failed, with the first lines of why. A file that could not be run counts as one that failed.
import { appendFileSync, readFileSync } from 'node:fs'
import { relative } from 'node:path'

const [, , report, failures] = process.argv
const LINES_OF_WHY = 6

/** What failed in a file of tests: the tests by name, or the file where none of its tests ran. */
function failedIn(file) {
  const place = relative(process.cwd(), file.name)
  const tests = file.assertionResults.filter((test) => test.status === 'failed')
  if (tests.length === 0) return [said(place, file.message)]
  return tests.map((test) => said(`${place}: ${test.fullName}`, test.failureMessages.join('\n')))
}

function said(name, why = '') {
  const lines = why.split('\n').slice(0, LINES_OF_WHY)
  return [name, ...lines.map((line) => `    ${line}`)].join('\n') + '\n'
}

const { numPassedTests, testResults } = JSON.parse(readFileSync(report, 'utf8'))
const failed = testResults.filter((file) => file.status === 'failed').flatMap(failedIn)
appendFileSync(failures, failed.join(''))
process.stdout.write(`${numPassedTests} ${failed.length}\n`)
