// What the test runners wrote, as { passed, failed, files, tests, failures }: files and tests with their name and seconds, failures
// with their name and why.
import { stripVTControlCharacters } from 'node:util'
import { relative } from 'node:path'
import { ROOT } from './ensure.mjs'

/** Of the JSON that Vitest writes. */
export function vitestResult({ numPassedTests, numFailedTests, testResults }) {
  const name = path => relative(ROOT, path)
  return {
    passed: numPassedTests,
    // A file that could not be read has no tests that could have failed.
    failed: numFailedTests + testResults.filter(f => f.status === 'failed' && !f.assertionResults.length).length,
    files: testResults.map(f => ({ name: name(f.name), seconds: (f.endTime - f.startTime) / 1000 })),
    tests: testResults.flatMap(f =>
      f.assertionResults.map(t => ({ name: `${name(f.name)}: ${t.title}`, seconds: (t.duration ?? 0) / 1000 })),
    ),
    failures: testResults.flatMap(f => [
      // A hook that failed is told of the file.
      ...(f.status === 'failed' && f.message ? [{ name: name(f.name), why: reason(f.message) }] : []),
      ...f.assertionResults
        .filter(t => t.status === 'failed')
        .map(t => ({ name: `${name(f.name)}: ${t.fullName}`, why: reason(t.failureMessages.join('\n')) })),
    ]),
  }
}

/** Of the JSON that Playwright writes. */
export function browserResult({ stats, suites }) {
  const tests = suites.flatMap(file =>
    file.specs.map(spec => ({
      file: `tests/browser/${file.file}`,
      name: `tests/browser/${file.file}: ${spec.title}`,
      seconds: spec.tests.flatMap(t => t.results).reduce((ms, r) => ms + r.duration, 0) / 1000,
    })),
  )
  const seconds = file => tests.filter(t => t.file === file).reduce((sum, t) => sum + t.seconds, 0)
  return {
    passed: stats.expected + stats.flaky,
    failed: stats.unexpected,
    files: [...new Set(tests.map(t => t.file))].map(file => ({ name: file, seconds: seconds(file) })),
    tests,
    failures: suites.flatMap(file =>
      file.specs
        .filter(spec => !spec.ok)
        .map(spec => ({
          name: `tests/browser/${file.file}: ${spec.title}`,
          why: reason(spec.tests.flatMap(t => t.results).flatMap(r => r.errors).map(e => e.message).join('\n')),
        })),
    ),
  }
}

/** The beginning of a complaint: what was expected, what came, and the first places of the stack. */
function reason(message) {
  return stripVTControlCharacters(message).split('\n').filter(line => line.trim()).slice(0, 25).join('\n').slice(0, 3000)
}

/** Files of all parts, the slowest first. */
export function slowestFiles(parts) {
  return parts.flatMap(p => p.files).sort((a, b) => b.seconds - a.seconds)
}
