// Counts what was right only at a second try, and prints each with what was wrong at the first: a race, in the program or
// in its test.
import { appendFileSync, readFileSync } from 'node:fs'
import type { FullResult, Reporter, TestCase, TestResult } from '@playwright/test/reporter'

const inset = (text: string) => text.replace(/^/gm, '    ')

/** How the page stood when it went wrong, as a screen reader has it. */
function page(first: TestResult | undefined) {
  const kept = first?.attachments.find((a) => a.name === 'error-context')?.path
  return kept ? readFileSync(kept, 'utf8').slice(0, 12_000) : ''
}

export default class SecondTries implements Reporter {
  private readonly found: string[] = []

  onTestEnd(test: TestCase, result: TestResult) {
    if (test.outcome() !== 'flaky') return
    const first = test.results.find((r) => r !== result)
    // Without the colours of a terminal.
    const why = (first?.error?.message ?? '').replace(/\u001b\[\d+m/g, '').slice(0, 600)
    this.found.push([test.titlePath().slice(2).join(' › '), inset(why), inset(page(first))].join('\n'))
  }

  onEnd(result: FullResult) {
    const file = process.env.DRY_ANVIL_SECOND_TRIES
    console.log(`${this.found.length} needed a second try (${result.status})`)
    for (const one of this.found) {
      console.log(one)
      if (file) appendFileSync(file, `${one}\n`)
    }
  }
}
