/** Files that were picked or dropped together, as what they are: numbered pictures of one name are one clip. */

/** A name's part before its last number, and its ending; null where it has no number or is no picture. */
function sequenceOf(name: string): string | null {
  const m = /^(.*?)(\d+)(\.(?:png|tiff?|jpe?g|exr|dpx|webp|bmp))$/i.exec(name);
  return m ? `${m[1]}#${m[3]!.toLowerCase()}` : null;
}

const byNumber = (a: File, b: File): number => a.name.localeCompare(b.name, 'en', { numeric: true });

/** @returns each clip or picture with the files that it is made of, in the order of their numbers and names */
export function groupFiles(files: readonly File[]): File[][] {
  const groups = new Map<string, File[]>();
  for (const file of [...files].sort(byNumber)) {
    const key = sequenceOf(file.name) ?? `alone ${file.name}`;
    groups.set(key, [...(groups.get(key) ?? []), file]);
  }
  return [...groups.values()];
}
