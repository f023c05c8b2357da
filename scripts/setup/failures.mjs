/** What failed, read from the reports of the test runners: a line each, with the first lines of why. */

/** Colours and other marks of a terminal. */
const TERMINAL = /\u001b\[[0-9;]*m/g;
/** Lines of a reason: the sentence, and what was expected. */
const WHY_LINES = 6;

function why(message) {
  const lines = message
    .replace(TERMINAL, '')
    .split('\n')
    .filter((line) => line.trim() !== '');
  return lines.slice(0, WHY_LINES).map((line) => `    ${line}`);
}

function told(name, message) {
  return [`- ${name}`, ...why(message ?? '')].join('\n');
}

/** @param report Vitest's JSON report, null when there is none */
export function failedOfVitest(report, runner) {
  if (!report) return [told(runner, 'It ended without a report.')];
  return report.testResults.flatMap((file) => {
    const failed = file.assertionResults.filter((test) => test.status === 'failed');
    const tests = failed.map((test) => told(`${file.name}: ${test.fullName}`, test.failureMessages[0]));
    const isBroken = file.status === 'failed' && failed.length === 0;
    return isBroken ? [told(file.name, file.message)] : tests;
  });
}

function ofSuite(suite) {
  const tests = (suite.specs ?? [])
    .filter((spec) => !spec.ok)
    .map((spec) => told(`${spec.file}: ${spec.title}`, spec.tests[0]?.results[0]?.error?.message));
  return [...tests, ...(suite.suites ?? []).flatMap(ofSuite)];
}

/** @param report Playwright's JSON report, null when there is none */
export function failedOfPlaywright(report) {
  if (!report) return [told('browser', 'It ended without a report.')];
  return report.suites.flatMap(ofSuite);
}
