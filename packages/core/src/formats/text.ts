/** What all text formats share: numbers, quoting, and rows of a table under a commented header. */

/** Twelve significant digits: far under 1e-6 px, and stable when written, read and written again. */
export function number(v: number): string {
  return String(Number(v.toPrecision(12)));
}

/** What a spreadsheet would take for a formula, or a reader for a comment, and what stands before it so that it does not. */
const FORMULA = /^[=+\-@\t\r'#]/;
const GUARD = "'";

const isFormula = (text: string): boolean => FORMULA.test(text) && !Number.isFinite(Number(text));

/** A cell of a table (RFC 4180). Text that a spreadsheet would reckon out has a quote before it. */
export function quoted(text: string, separator = ','): string {
  const safe = isFormula(text) ? GUARD + text : text;
  return safe.includes(separator) || /["\n\r]/.test(safe) ? `"${safe.replaceAll('"', '""')}"` : safe;
}

/** The text of a cell that {@link quoted} wrote. */
export function unguarded(cell: string): string {
  return cell.startsWith(GUARD) && isFormula(cell.slice(1)) ? cell.slice(1) : cell;
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

/** Characters that XML 1.0 (section 2.2) does not allow, lone halves of a pair among them. */
const NOT_IN_XML = /[\u0000-\u0008\u000b\u000c\u000e-\u001f\ufffe\uffff]|\p{Surrogate}/gu;

/** Text as it may stand in XML and HTML, between tags and in attributes. */
export function escaped(text: string): string {
  return text
    .replace(NOT_IN_XML, '\ufffd')
    .replaceAll('&', '&amp;')
    .replaceAll('<', '&lt;')
    .replaceAll('>', '&gt;')
    .replaceAll('"', '&quot;')
    .replaceAll("'", '&#39;');
}

/** Text as it may stand in a comment of CSS, also where that lies within a page. */
export function inComment(text: string): string {
  return text.replace(/[<>*\\]/g, ' ').replace(/\s+/g, ' ');
}
