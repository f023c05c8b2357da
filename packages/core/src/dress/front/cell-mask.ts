/** Masks of cells as text: lengths of the runs of 0 and 1 in turn, row by row, the first of 0; trailing 0s left out. */

/** @returns '' for a mask without any 1 */
export function maskText(mask: Uint8Array): string {
  const runs: number[] = [];
  let now = 0;
  let length = 0;
  for (const v of mask) {
    if (v === now) length++;
    else {
      runs.push(length);
      now = v;
      length = 1;
    }
  }
  if (now === 1) runs.push(length);
  return runs.join(' ');
}

/** The mask of a text, as long as `n`; what goes beyond it is left out. */
export function maskOf(text: string, n: number): Uint8Array {
  const mask = new Uint8Array(n);
  if (text === '') return mask;
  let at = 0;
  for (const [i, run] of text.split(' ').entries()) {
    const end = at + Number(run);
    if (i % 2 === 1) mask.fill(1, at, end);
    at = end;
  }
  return mask;
}
