/** Files that were picked or dropped together, as what they are: numbered pictures of one name are one clip. */

/** A name's part before its last number, and its ending; null where it has no number or is no picture. */
function sequenceOf(name: string): string | null {
  const m = /^(.*?)(\d+)(\.(?:png|tiff?|jpe?g|exr|dpx|webp|bmp))$/i.exec(name);
  return m ? `${m[1]}#${m[3]!.toLowerCase()}` : null;
}

const byNumber = (a: File, b: File): number => a.name.localeCompare(b.name, 'en', { numeric: true });

/** Files of a folder that a system keeps for itself. */
const isHidden = (name: string): boolean => name.startsWith('.') || name === 'Thumbs.db';

/** Where in what was dropped or chosen a file lies: pictures of one name in two folders are two clips. */
function folderOf(file: File & { readonly relativePath?: string }): string {
  const path = file.webkitRelativePath || file.relativePath || '';
  return path.slice(0, path.lastIndexOf('/') + 1);
}

/** @returns each clip or picture with the files that it is made of, in the order of their numbers and names */
export function groupFiles(files: readonly File[]): File[][] {
  const groups = new Map<string, File[]>();
  for (const file of files.filter((f) => !isHidden(f.name)).sort(byNumber)) {
    const key = folderOf(file) + (sequenceOf(file.name) ?? `alone ${file.name}`);
    groups.set(key, [...(groups.get(key) ?? []), file]);
  }
  return [...groups.values()];
}
