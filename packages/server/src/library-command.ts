/** `backup FOLDER` and `restore FOLDER`: see `library-copy.ts`. Started by the scripts, which see to the database. */
import { resolve } from 'node:path';
import { readConfig } from './config';
import { backUpLibrary, restoreLibrary } from './library-copy';

const WAYS = { backup: backUpLibrary, restore: restoreLibrary } as const;
const DONE = { backup: 'Backed up to', restore: 'Restored from' } as const;

const [way, folder] = process.argv.slice(2);
try {
  if ((way !== 'backup' && way !== 'restore') || !folder)
    throw new Error('Say where: npm run backup -- FOLDER, or npm run restore -- FOLDER.');
  const { at, files, added, bytes } = await WAYS[way](readConfig(process.env), resolve(folder));
  process.stdout.write(
    `${DONE[way]} ${at}: ${files} files, ${added} of them copied (${(bytes / 1e6).toFixed(1)} MB), and all rows.\n`,
  );
} catch (e) {
  process.stderr.write(`${(e as Error).message}\n`);
  process.exitCode = 1;
}
