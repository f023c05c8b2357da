/** What failed is told from the runners' reports; their shapes are those of Vitest's and Playwright's JSON reporters. */
import { describe, expect, it } from 'vitest';
import { failedOfPlaywright, failedOfVitest } from '../setup/failures.mjs';

describe('what failed', () => {
  it('is every failed test of Vitest, with why and without colours', () => {
    const right = { status: 'passed', fullName: 'a right one', failureMessages: [] };
    const wrong = {
      status: 'failed',
      fullName: 'a wrong one',
      failureMessages: ['\u001b[31mexpected 1\u001b[39m\n\n at x'],
    };
    const report = { testResults: [{ name: 'a.test.ts', status: 'failed', assertionResults: [right, wrong] }] };
    expect(failedOfVitest(report, 'unit')).toEqual(['- a.test.ts: a wrong one\n    expected 1\n     at x']);
  });

  it('is a file that could not be read, and a runner that left no report', () => {
    const report = {
      testResults: [{ name: 'b.test.ts', status: 'failed', message: 'no such module', assertionResults: [] }],
    };
    expect(failedOfVitest(report, 'unit')).toEqual(['- b.test.ts\n    no such module']);
    expect(failedOfVitest(null, 'unit')).toEqual(['- unit\n    It ended without a report.']);
  });

  it('is every spec of Playwright that is not right, however deep it lies', () => {
    const wrong = {
      file: 'c.spec.ts',
      title: 'deep',
      ok: false,
      tests: [{ results: [{ error: { message: 'not seen' } }] }],
    };
    const report = { suites: [{ specs: [{ ok: true }], suites: [{ specs: [wrong] }] }] };
    expect(failedOfPlaywright(report)).toEqual(['- c.spec.ts: deep\n    not seen']);
    expect(failedOfPlaywright(null)).toHaveLength(1);
  });
});
