/** What all text formats share: numbers, quoting, and rows of a table under a commented header. */

/** Twelve significant digits: far under 1e-6 px, and stable when written, read and written again. */
export function number(v: number): string {
  return String(Number(v.toPrecision(12)));
}

/** A cell of a table (RFC 4180). */
export function quoted(text: string, separator = ','): string {
  return text.includes(separator) || /["\n\r]/.test(text) ? `"${text.replaceAll('"', '""')}"` : text;
}

/** @param separator comma or tab */
export function table(
  header: readonly string[],
  columns: readonly string[],
  rows: readonly (readonly (string | number)[])[],
  separator = ',',
): string {
  return [
    ...header.map((l) => `# ${l}`),
    columns.join(separator),
    ...rows.map((r) => r.map((v) => (typeof v === 'number' ? number(v) : quoted(v, separator))).join(separator)),
    '',
  ].join('\n');
}

/** Text as it may stand in XML and HTML. */
export function escaped(text: string): string {
  return text.replaceAll('&', '&amp;').replaceAll('<', '&lt;').replaceAll('>', '&gt;').replaceAll('"', '&quot;');
}
